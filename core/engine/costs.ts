import type { Step } from '../graph/graph'

/**
 * Nanoseconds a texel and thread by node type, read off bench/RESULTS.md; for progress only. The forecast needs the
 * ratios, not the machine: a wrong entry makes the bar uneven, nothing else.
 */
const COSTS: Readonly<Record<string, number>> = {
  constant: 1,
  'flat-normal': 1,
  noise: 60,
  cells: 160,
  ramp: 25,
  image: 90,
  levels: 10,
  cutoff: 8,
  span: 6,
  invert: 6,
  'gradient-remap': 60,
  blend: 15,
  math: 12,
  push: 70,
  blur: 120,
  'height-to-normal': 30,
  'height-to-occlusion': 1500,
  'combine-normals': 60,
  'encode-srgb': 150,
  'decode-srgb': 150,
}

const OTHER = 20

/** Forecast cost of one texel of a step. Uniform steps cost next to nothing. */
export const costOf = (step: Step): number => (step.uniform ? 0.01 : (COSTS[step.node.type] ?? OTHER))
