import type { Step } from '../graph/graph'

/**
 * Nanoseconds a texel and thread by node type, read off bench/RESULTS.md (those from bond to spots: measured at 2048²);
 * for progress only. The forecast needs the ratios, not the machine: a wrong entry makes the bar uneven, nothing else.
 */
const COSTS: Readonly<Record<string, number>> = {
  constant: 1,
  'flat-normal': 1,
  noise: 80,
  cells: 800,
  ramp: 32,
  image: 140,
  levels: 195,
  cutoff: 65,
  span: 45,
  invert: 27,
  'gradient-remap': 137,
  blend: 50,
  math: 40,
  push: 285,
  blur: 500,
  'height-to-normal': 40,
  'height-to-occlusion': 4500,
  'combine-normals': 210,
  'encode-srgb': 490,
  'decode-srgb': 470,
  'colour-to-normal': 190,
  'colour-to-vector': 130,
  bond: 1700,
  distance: 950,
  bevel: 480,
  grow: 700,
  shrink: 700,
  smear: 1900,
  spots: 240,
}

const OTHER = 90

/** Forecast cost of one texel of a step. Uniform steps cost next to nothing. */
export const costOf = (step: Step): number => (step.uniform ? 0.01 : (COSTS[step.node.type] ?? OTHER))
