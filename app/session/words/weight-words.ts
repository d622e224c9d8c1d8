import type { NodeWeight } from '#core/material/weigh'
import { greatestChange } from '#core/material/weigh'

/** What a node takes and changes, short: "3.2 ms", "12/255". */
export function weightInWords(weight: NodeWeight): { cost: string; change: string } {
  const { milliseconds } = weight
  const rms = (greatestChange(weight)?.rms ?? 0) * 255
  return {
    cost: `${milliseconds < 10 ? milliseconds.toFixed(1) : Math.round(milliseconds)} ms`,
    change: rms === 0 ? 'no change' : rms < 0.05 ? '< 0.1/255' : `${rms < 10 ? rms.toFixed(1) : Math.round(rms)}/255`,
  }
}
