import type { Layer, MaskEntry } from '../document/document'
import { startOfGroup } from '../document/mask-groups'
import { located } from '../errors'
import type { PortRef } from '../graph/graph'
import type { Context, Position } from './context'
import { addWithAmount } from './mix'

/** An entry of a mask that is on and can be made, with what it brings. */
interface Made {
  readonly entry: MaskEntry
  readonly index: number
  readonly source: PortRef
}

/**
 * The mask stack of a layer: m = 1; for each entry m = mix(m, mode(m, source), amount). Entries in a group become one mask in
 * the same way, beginning with what the lowest brings, which then goes in as that entry's mode and amount say. Undefined where
 * the stack is empty; entries that are off or cannot be made are left out.
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
    const over = (base: PortRef, { entry, index }: Made, source: PortRef): PortRef =>
      addWithAmount(
        context,
        'blend',
        { mode: entry.mode },
        { owner: `layer ${layer.id}`, now: () => entryNow(context, layer.id, index).amount },
        { base, source },
      )
    const grouped = groupsOf(layer.mask, made).map(([lowest, ...joined]) => ({
      lowest: lowest!,
      source: joined.reduce((base, one) => over(base, one, one.source), lowest!.source),
    }))
    const [first] = grouped
    if (!first) return undefined
    const { mode, amount } = first.lowest.entry
    if (grouped.length === 1 && amount === 1 && (mode === 'multiply' || mode === 'normal')) return first.source
    return grouped.reduce((base, { lowest, source }) => over(base, lowest, source), context.builder.constant(1))
  })
}

/** Entries by their groups; one in none is a group of its own. What is left out of the mask keeps its group together. */
function groupsOf(mask: readonly MaskEntry[], made: readonly Made[]): Made[][] {
  const groups: Made[][] = []
  let at = -1
  for (const one of made) {
    const start = startOfGroup(mask, one.index)
    if (start === at) groups.at(-1)!.push(one)
    else groups.push([one])
    at = start
  }
  return groups
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
