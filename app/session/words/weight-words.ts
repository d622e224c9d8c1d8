import { channelsOf } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import type { NodeWeight } from '#core/material/weigh'
import { greatestChange } from '#core/material/weigh'

/** What a node takes and changes, short: "3.2 ms", "12/255", and the channel that changes most, if any does. */
export function weightInWords(
  weight: NodeWeight,
  document: MaterialDocument,
): { cost: string; change: string; channel: string | null } {
  const { milliseconds } = weight
  const most = greatestChange(weight)
  const rms = (most?.rms ?? 0) * 255
  const title = channelsOf(document).find(({ id }) => id === most?.channel)?.title ?? most?.channel
  return {
    channel: title?.toLowerCase() ?? null,
    cost: `${milliseconds < 10 ? milliseconds.toFixed(1) : Math.round(milliseconds)} ms`,
    change: rms === 0 ? 'no change' : rms < 0.05 ? '< 0.1/255' : `${rms < 10 ? rms.toFixed(1) : Math.round(rms)}/255`,
  }
}
