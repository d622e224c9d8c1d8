import type { Channel } from '../document/channels'
import type { Cell } from '../document/document'
import { GristError } from '../errors'
import type { PortRef } from '../graph/graph'
import type { Context, Owner } from './context'

export type BlendOf = Pick<Cell, 'blend' | 'encoding'>

export const PLAIN: BlendOf = { blend: 'normal', encoding: 'srgb' }

/** An amount of a layer or of a part of it, 0–1, and whose it is; `now` tells it as it stands. */
export interface Amount {
  readonly owner: Owner
  readonly now: () => number
}

/** Adds a blend step whose amount follows its layer. */
export function addWithAmount(
  context: Context,
  type: string,
  params: Readonly<Record<string, unknown>>,
  amount: Amount | 1,
  inputs: Readonly<Record<string, PortRef | undefined>>,
): PortRef {
  const { builder } = context
  if (amount === 1) return builder.add(type, params, inputs).out('result')
  const given = (): Record<string, unknown> => ({ ...params, amount: amount.now() })
  const { step, out } = builder.addChanging(type, given(), inputs)
  context.bind(amount.owner, step, given)
  return out('result')
}

/** mix(base, mode(base, source), mask · amount) in the mode's encoding. Throws parameter-invalid. */
export function mix(
  context: Context,
  channel: Channel,
  { blend, encoding }: BlendOf,
  base: PortRef,
  source: PortRef,
  mask: PortRef | undefined,
  amount: Amount | 1,
): PortRef {
  const value = amount === 1 ? 1 : amount.now()
  if (value === 0) return base
  const whole = value === 1 && !mask
  if (channel.type === 'normal') {
    if (!['normal', 'replace', 'combine'].includes(blend))
      throw new GristError('parameter-invalid', `The normal channel takes "replace" or "combine", not "${blend}".`, {
        parameter: 'blend',
      })
    const method = blend === 'combine' ? 'reoriented' : 'replace'
    if (whole && method === 'replace') return source
    return addWithAmount(context, 'combine-normals', { method }, amount, { base, detail: source, mask })
  }
  if (blend === 'replace' || blend === 'combine')
    throw new GristError('parameter-invalid', `"${blend}" is for the normal channel only.`, { parameter: 'blend' })
  if (whole && blend === 'normal') return source
  return addWithAmount(context, 'blend', { mode: blend, encoding }, amount, { base, source, mask })
}
