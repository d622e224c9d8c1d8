import { pow } from '../elementary'

/** One channel's levels: what comes in from low to high goes out from outLow to outHigh, bent by gamma. */
export interface Levels {
  readonly low: number
  readonly high: number
  readonly gamma: number
  readonly outLow: number
  readonly outHigh: number
  readonly clamp: boolean
}

/**
 * outLow + (outHigh − outLow) · t^(1/gamma) with t = (v − low)/(high − low); a hard step where low = high.
 * Unclamped values below low mirror the curve. Source: common practice; own derivation of the mirrored part.
 */
export function applyLevels(v: number, { low, high, gamma, outLow, outHigh, clamp }: Levels): number {
  let t = high === low ? (v >= high ? 1 : 0) : (v - low) / (high - low)
  if (clamp) t = t < 0 ? 0 : t > 1 ? 1 : t
  if (gamma !== 1) t = t < 0 ? -pow(-t, 1 / gamma) : pow(t, 1 / gamma)
  return outLow + (outHigh - outLow) * t
}
