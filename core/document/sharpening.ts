import { z } from 'zod'
import type { Channel } from './channel'

const amount = z.number().min(0).max(1)

/** How much channels are sharpened on their way out, 0–1: by channel, or one number for those that usually are (base colour). */
export const sharpening = z.union([amount, z.record(z.string().max(64), amount)])
export type Sharpening = number | Readonly<Record<string, number>>

/** Whether a channel can be sharpened: directions cannot, and what is made of other channels follows theirs. */
export const canSharpen = ({ type, derived }: Channel): boolean => type !== 'normal' && !derived

/** How much a channel is sharpened. */
export function sharpenOf(channel: Channel, of: Sharpening): number {
  if (!canSharpen(channel)) return 0
  if (typeof of === 'number') return channel.sharpens ? of : 0
  return Object.hasOwn(of, channel.id) ? of[channel.id]! : 0
}

/** The channels that are sharpened, and how much. */
export const sharpenedOf = (channels: readonly Channel[], of: Sharpening): { channel: Channel; amount: number }[] =>
  channels.map((channel) => ({ channel, amount: sharpenOf(channel, of) })).filter((one) => one.amount > 0)

/** The same with another amount for one channel; none is no member. */
export function withSharpening(channels: readonly Channel[], of: Sharpening, id: string, by: number): Sharpening {
  const all = new Map(sharpenedOf(channels, of).map((one) => [one.channel.id, one.amount]))
  if (by > 0) all.set(id, by)
  else all.delete(id)
  return Object.fromEntries(all)
}
