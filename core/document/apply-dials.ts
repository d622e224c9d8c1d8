import { GristError, show } from '../errors'
import type { Dial, DocumentNode, Drive, Layer, MaterialDocument, PlainLayer, Source } from './document'
import { allLayers } from './document'

/**
 * The document with every dial's value written where it drives: field = value · scale + offset; words, colours and
 * switches go in as they are. The given document stays as it is; what no dial drives is shared with it.
 * `onFault` is told of dials and drives that cannot be, which are left out. Without it throws reference-unknown or
 * parameter-invalid.
 */
export function applyDials(document: MaterialDocument, onFault?: (fault: GristError) => void): MaterialDocument {
  const writing: Writing = { document, nodes: new Map(), layers: new Map() }
  const attempt = (work: () => void): boolean => {
    try {
      work()
      return true
    } catch (error) {
      if (!onFault || !(error instanceof GristError)) throw error
      onFault(error)
      return false
    }
  }
  for (const dial of document.dials)
    if (attempt(() => checkDial(dial, document.name)))
      for (const drive of dial.drives) attempt(() => applyDrive(writing, dial, drive))
  const { nodes, layers } = writing
  if (nodes.size === 0 && layers.size === 0) return document
  return {
    ...document,
    nodes: nodes.size === 0 ? document.nodes : { ...document.nodes, ...Object.fromEntries(nodes) },
    layers: layers.size === 0 ? document.layers : withLayers(document.layers, layers),
  }
}

/** What dials have written so far: copies of the nodes and layers that they drive, by id. */
interface Writing {
  readonly document: MaterialDocument
  readonly nodes: Map<string, DocumentNode>
  readonly layers: Map<string, Layer>
}

const NUMERIC = ['number', 'whole', 'seed']

function checkDial(dial: Dial, document: string): void {
  const place = { document, dial: dial.id }
  const expected = NUMERIC.includes(dial.kind) ? 'number' : dial.kind === 'switch' ? 'boolean' : 'string'
  if (typeof dial.value !== expected)
    throw new GristError(
      'parameter-invalid',
      `Expected a ${expected} for this ${dial.kind} dial but received ${show(dial.value)}.`,
      place,
    )
  if (typeof dial.value === 'number' && (dial.value < (dial.min ?? -Infinity) || dial.value > (dial.max ?? Infinity)))
    throw new GristError(
      'parameter-invalid',
      `Expected ${dial.min ?? '−∞'} to ${dial.max ?? '∞'} but received ${dial.value}.`,
      place,
    )
  if (dial.kind === 'choice' && dial.options && !dial.options.includes(String(dial.value)))
    throw new GristError(
      'parameter-invalid',
      `Expected one of ${dial.options.join(', ')} but received ${show(dial.value)}.`,
      place,
    )
}

function valueFor(dial: Dial, drive: Drive): number | string | boolean {
  if (typeof dial.value !== 'number') return dial.value
  const value = dial.value * drive.scale + drive.offset
  return dial.kind === 'number' ? value : Math.round(value)
}

function applyDrive({ document, nodes, layers }: Writing, dial: Dial, drive: Drive): void {
  const place = { document: document.name, dial: dial.id }
  const value = valueFor(dial, drive)
  const numeric = 'part' in drive || ('layer' in drive && drive.field === 'amount')
  if (numeric && !(typeof value === 'number' && value >= 0 && value <= 1))
    throw new GristError(
      'parameter-invalid',
      `Expected an amount from 0 to 1 but the dial gives ${show(value)}.`,
      place,
    )
  if ('node' in drive) {
    const node = nodes.get(drive.node) ?? document.nodes[drive.node]
    if (!node) throw new GristError('reference-unknown', `There is no node "${drive.node}" to drive.`, place)
    const written =
      'part' in drive
        ? { amount: value as number }
        : { params: setAt(node.params ?? {}, drive.field.split('.'), value) }
    nodes.set(drive.node, { ...node, ...written })
    return
  }
  const layer = layers.get(drive.layer) ?? layerOf(document.layers, drive.layer)
  if (!layer) throw new GristError('reference-unknown', `There is no layer "${drive.layer}" to drive.`, place)
  layers.set(drive.layer, drivenLayer(layer, drive, value, place))
}

function layerOf(layers: readonly Layer[], id: string): Layer | undefined {
  for (const layer of allLayers(layers)) if (layer.id === id) return layer
  return undefined
}

/** A copy of a layer with one of its fields set. */
function drivenLayer(
  layer: Layer,
  drive: Exclude<Drive, { node: string }>,
  value: number | string | boolean,
  place: { document: string; dial: string },
): Layer {
  const written = drive.field === 'value' ? { source: valueSource(value, place) } : { [drive.field]: value }
  if ('entry' in drive) {
    if (!layer.mask[drive.entry])
      throw new GristError('reference-unknown', `Layer "${drive.layer}" has no mask entry ${drive.entry}.`, place)
    const mask = layer.mask.map((entry, index) => (index === drive.entry ? { ...entry, ...written } : entry))
    return { ...layer, mask }
  }
  if (!('channel' in drive)) return { ...layer, amount: value as number }
  const cells = layer.kind === 'group' ? {} : (layer as PlainLayer).cells
  const cell = cells[drive.channel]
  if (!cell) throw new GristError('reference-unknown', `Layer "${drive.layer}" has no cell "${drive.channel}".`, place)
  return { ...layer, cells: { ...cells, [drive.channel]: { ...cell, ...written } } } as PlainLayer
}

/** The list with layers replaced, wherever they lie; the same list where none of them is in it. */
function withLayers(layers: readonly Layer[], by: ReadonlyMap<string, Layer>): Layer[] {
  let changed = false
  const list = layers.map((layer) => {
    const own = by.get(layer.id) ?? layer
    const inside = layer.kind === 'group' ? withLayers(layer.layers, by) : null
    const next =
      inside && layer.kind === 'group' && inside !== layer.layers ? ({ ...own, layers: inside } as Layer) : own
    changed ||= next !== layer
    return next
  })
  return changed ? list : (layers as Layer[])
}

function valueSource(value: number | string | boolean, place: { document: string; dial: string }): Source {
  if (typeof value === 'boolean')
    throw new GristError('parameter-invalid', 'A switch cannot set a value; it expects a number or a colour.', place)
  return { value }
}

/** A copy of `target` with the member at `path` replaced; numbers in the path index into lists. */
function setAt(target: Record<string, unknown>, path: readonly string[], value: unknown): Record<string, unknown> {
  const [first, ...rest] = path as [string, ...string[]]
  const next = target[first]
  const copy = Array.isArray(target) ? ([...target] as unknown as Record<string, unknown>) : { ...target }
  copy[first] = rest.length === 0 ? value : setAt((next ?? {}) as Record<string, unknown>, rest, value)
  return copy
}
