import type { Step } from '../graph/graph'

/**
 * Nanoseconds a texel and thread by node type, as `npm run bench -- nodes` measured it, where it is far from
 * the usual: for progress, and for which results are cheaper made again than kept. A wrong entry makes the bar uneven or a
 * dial slower, nothing else.
 */
export const COSTS: Readonly<Record<string, number>> = {
  'adjust-colour': 21,
  'adjust-normal': 18,
  'auto-range': 2.6,
  bevel: 133,
  'bias-gain': 5,
  blend: 3,
  bond: 135,
  cells: 88,
  'colour-mask': 24,
  'colour-to-grey': 4.4,
  'colour-to-normal': 7,
  'colour-to-vector': 4.8,
  'combine-normals': 69,
  'compress-range': 2,
  constant: 1,
  'coverage-share': 8.7,
  curvature: 77,
  curve: 12,
  'decode-srgb': 16,
  'directional-blur': 520,
  distance: 247,
  edges: 123,
  'encode-srgb': 19,
  'flat-normal': 1,
  'gradient-remap': 26,
  'grey-to-colour': 2.8,
  grow: 54,
  'height-blend': 9.3,
  'height-to-normal': 17,
  'height-to-occlusion': 69,
  invert: 2,
  join: 4.5,
  levels: 79,
  math: 2.3,
  noise: 7.2,
  'normal-to-colour': 5.5,
  'normal-to-vector': 3.6,
  ramp: 15,
  regions: 87,
  remap: 1.9,
  select: 25,
  shape: 119,
  shrink: 64,
  split: 2.8,
  stencil: 79,
  stripes: 14,
  threshold: 1.9,
  'to-grey': 2.4,
  transform: 137,
  warp: 20,
  weave: 28,
}

/** The usual. */
const OTHER = 45

/** Forecast cost of one texel of a step. Uniform steps cost next to nothing. */
export const costOf = (step: Step): number => (step.uniform ? 0.01 : (COSTS[step.node.type] ?? OTHER))
