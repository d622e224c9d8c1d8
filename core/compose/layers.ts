import type { Channel } from '../document/channels'
import type { Layer, PlainLayer } from '../document/document'
import { located } from '../errors'
import { sameRef } from '../graph/graph'
import { bottomOf } from './bottom'
import type { Composed, Context, Scope } from './context'
import { groupOver } from './groups'
import type { Amount } from './mix'
import { addWithAmount, mix } from './mix'

/** A channel after layer `index` of a scope, from the bottom up, so that tall sheets do not nest calls. */
export function composeUpTo(context: Context, scope: Scope, index: number, channel: Channel): Composed {
  let state = start(context, scope, channel)
  for (let i = 0; i <= index; i++) {
    const layer = scope.layers[i]!
    const backdrop = state
    state = context.once(
      `after ${layer.id} ${channel.id}`,
      `layer ${layer.id}, ${channel.id}`,
      () =>
        context.attempt(
          () => layerOver(context, scope, i, layer, channel, backdrop),
          () => backdrop,
        ),
      { layer: layer.id },
    )
  }
  return state
}

/** What a scope starts from: nothing for a closed group, else what lies under it. */
function start(context: Context, scope: Scope, channel: Channel): Composed {
  if (!scope.group) return { value: bottomOf(context, channel), coverage: null }
  if (scope.group.closed) return { value: bottomOf(context, channel), coverage: context.builder.constant(0) }
  return context.after(scope.parent!, scope.index - 1, channel)
}

/** The layer algebra of docs/FORMAT.md, in ordinary blend steps. */
function layerOver(
  context: Context,
  scope: Scope,
  index: number,
  layer: Layer,
  channel: Channel,
  backdrop: Composed,
): Composed {
  if (layer.off) return backdrop
  if (layer.kind === 'group') return groupOver(context, layer, { scope, index, layer }, channel, backdrop)
  const cell = layer.cells[channel.id]
  if (!cell || cell.off) return backdrop
  const now = (): PlainLayer => context.positionOf(layer.id).layer as PlainLayer
  const position = { scope, index, layer }
  const source = located({ parameter: channel.id }, () =>
    context.builder.convert(
      context.source(cell.source, position, () => now().cells[channel.id]!.source),
      channel.type,
    ),
  )
  const mask = context.mask(layer, position)
  const amount: Amount = { owner: `layer ${layer.id}`, now: () => now().amount * now().cells[channel.id]!.amount }
  if (!backdrop.coverage || layer.kind === 'correction')
    return { value: mix(context, channel, cell, backdrop.value, source, mask, amount), coverage: backdrop.coverage }
  // W3C section 5.1: αo = αb + w(1 − αb); Cs' = (1 − αb)·Cs + αb·B(Cb, Cs); Co = Cb + (w/αo)(Cs' − Cb).
  const base = backdrop.coverage
  const union = addWithAmount(context, 'blend', {}, amount, { base, source: context.builder.constant(1), mask })
  const plain = { blend: 'normal', encoding: cell.encoding } as const
  const blended = mix(context, channel, cell, backdrop.value, source, undefined, 1)
  const own = sameRef(blended, source) ? source : mix(context, channel, plain, source, blended, base, 1)
  const ratio = addWithAmount(context, 'coverage-share', {}, amount, { mask, union })
  return { value: mix(context, channel, plain, backdrop.value, own, ratio, 1), coverage: union }
}
