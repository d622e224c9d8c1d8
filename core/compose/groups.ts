import type { Channel } from '../document/channels'
import type { Group, Layer } from '../document/document'
import type { PortRef } from '../graph/graph'
import { sameRef } from '../graph/graph'
import type { Composed, Context, Position } from './context'
import type { Amount } from './mix'
import { PLAIN, addWithAmount, mix } from './mix'

/** A group over its backdrop. Closed groups: W3C Compositing and Blending Level 1, section 5 (isolated groups). */
export function groupOver(
  context: Context,
  group: Group,
  position: Position,
  channel: Channel,
  backdrop: Composed,
): Composed {
  const inside = context.after(context.scopeOf(group.id), group.layers.length - 1, channel)
  if (sameRef(inside.value, backdrop.value) && !group.closed) return backdrop
  if (group.closed && !group.layers.some((layer) => writes(layer, channel.id))) return backdrop
  const { builder } = context
  const mask = context.mask(group, position)
  const amount: Amount = { owner: `layer ${group.id}`, now: () => context.positionOf(group.id).layer.amount }
  const over = (weight: PortRef | undefined, of: Amount | 1): PortRef =>
    mix(context, channel, PLAIN, backdrop.value, inside.value, weight, of)
  const covered = inside.coverage
  if (!covered) return { value: over(mask, amount), coverage: null }
  const weight =
    group.closed && mask
      ? builder.add('blend', { mode: 'multiply' }, { base: covered, source: mask }).out('result')
      : covered
  if (!backdrop.coverage) return { value: over(weight, amount), coverage: null }
  const base = backdrop.coverage
  const union = group.closed
    ? addWithAmount(context, 'blend', {}, amount, { base, source: builder.constant(1), mask: weight })
    : addWithAmount(context, 'blend', {}, amount, { base, source: covered, mask })
  const ratio = addWithAmount(context, 'coverage-share', {}, amount, { mask, coverage: covered, union })
  return { value: over(ratio, 1), coverage: union }
}

const writes = (layer: Layer, channel: string): boolean => {
  if (layer.off) return false
  if (layer.kind === 'group') return layer.layers.some((one) => writes(one, channel))
  const cell = layer.cells[channel]
  return layer.kind === 'layer' && cell !== undefined && !cell.off
}
