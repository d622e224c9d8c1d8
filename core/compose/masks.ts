import type { Layer, MaskEntry } from '../document/document'
import { located } from '../errors'
import type { PortRef } from '../graph/graph'
import type { Context, Position } from './context'
import { addWithAmount } from './mix'

/**
 * The mask stack of a layer: m = 1; for each entry m = mix(m, mode(m, source), amount). Undefined where it is empty; entries that
 * cannot be made are left out.
 */
export function composeMask(context: Context, layer: Layer, position: Position): PortRef | undefined {
  const entries = layer.mask.flatMap((entry, index) => (entry.off ? [] : [{ entry, index }]))
  if (entries.length === 0) return undefined
  return context.once(`mask ${layer.id}`, `mask of layer ${layer.id}`, () => {
    const made = entries.flatMap(({ entry, index }) =>
      context.attempt(
        () => [{ entry, index, source: entrySource(context, position, index) }],
        () => [],
      ),
    )
    const [first] = made
    if (!first) return undefined
    const { mode, amount } = first.entry
    if (made.length === 1 && amount === 1 && (mode === 'multiply' || mode === 'normal')) return first.source
    return made.reduce(
      (base, { entry, index, source }) =>
        addWithAmount(
          context,
          'blend',
          { mode: entry.mode },
          { owner: `layer ${layer.id}`, now: () => entryNow(context, layer.id, index).amount },
          { base, source },
        ),
      context.builder.constant(1),
    )
  })
}

const entryNow = (context: Context, layer: string, index: number): MaskEntry =>
  context.positionOf(layer).layer.mask[index]!

/** What one entry of a mask brings, inverted where it says so. */
export function entrySource(context: Context, position: Position, index: number): PortRef {
  const { id, mask } = position.layer
  const entry = mask[index]!
  const grey = located({ parameter: 'mask' }, () =>
    context.builder.convert(
      context.source(entry.source, position, () => entryNow(context, id, index).source),
      'grey',
    ),
  )
  return entry.invert ? context.builder.add('invert', {}, { source: grey }).out('result') : grey
}
