import { GristError, show } from '../errors'
import type { Dial, Drive, Layer, MaterialDocument, Source } from '../graph/document'
import { allLayers } from '../graph/document'

/**
 * The document with every dial's value written where it drives: field = value · scale + offset; words, colours and
 * switches go in as they are. The given document stays as it is. Throws reference-unknown or parameter-invalid.
 */
export function applyDials(document: MaterialDocument): MaterialDocument {
  if (document.dials.length === 0) return document
  const copy = structuredClone(document)
  for (const dial of copy.dials) {
    checkDial(dial, document.name)
    for (const drive of dial.drives) applyDrive(copy, dial, drive)
  }
  return copy
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

function applyDrive(document: MaterialDocument, dial: Dial, drive: Drive): void {
  const place = { document: document.name, dial: dial.id }
  const value = valueFor(dial, drive)
  if ('node' in drive) {
    const node = document.nodes[drive.node]
    if (!node) throw new GristError('reference-unknown', `There is no node "${drive.node}" to drive.`, place)
    node.params = setAt(node.params ?? {}, drive.field.split('.'), value)
    return
  }
  const layer = findLayer(document.layers, drive.layer)
  if (!layer) throw new GristError('reference-unknown', `There is no layer "${drive.layer}" to drive.`, place)
  const numeric = drive.field === 'amount'
  if (numeric && !(typeof value === 'number' && value >= 0 && value <= 1))
    throw new GristError(
      'parameter-invalid',
      `Expected an amount from 0 to 1 but the dial gives ${show(value)}.`,
      place,
    )
  if ('entry' in drive) {
    const entry = layer.mask[drive.entry]
    if (!entry)
      throw new GristError('reference-unknown', `Layer "${drive.layer}" has no mask entry ${drive.entry}.`, place)
    if (drive.field === 'value') entry.source = valueSource(value, place)
    else Object.assign(entry, { [drive.field]: value })
  } else if ('channel' in drive) {
    const cell = layer.kind === 'group' ? undefined : layer.cells[drive.channel]
    if (!cell)
      throw new GristError('reference-unknown', `Layer "${drive.layer}" has no cell "${drive.channel}".`, place)
    if (drive.field === 'value') cell.source = valueSource(value, place)
    else Object.assign(cell, { [drive.field]: value })
  } else layer.amount = value as number
}

function valueSource(value: number | string | boolean, place: { document: string; dial: string }): Source {
  if (typeof value === 'boolean')
    throw new GristError('parameter-invalid', 'A switch cannot set a value; it expects a number or a colour.', place)
  return { value }
}

const findLayer = (layers: readonly Layer[], id: string): Layer | undefined => {
  for (const layer of allLayers(layers)) if (layer.id === id) return layer
  return undefined
}

/** A copy of `target` with the member at `path` replaced; numbers in the path index into lists. */
function setAt(target: Record<string, unknown>, path: readonly string[], value: unknown): Record<string, unknown> {
  const [first, ...rest] = path as [string, ...string[]]
  const next = target[first]
  const copy = Array.isArray(target) ? ([...target] as unknown as Record<string, unknown>) : { ...target }
  copy[first] = rest.length === 0 ? value : setAt((next ?? {}) as Record<string, unknown>, rest, value)
  return copy
}
