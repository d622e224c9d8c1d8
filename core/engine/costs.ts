import type { Step } from '../graph/graph'

/**
 * Nanoseconds a texel and thread by node type, read off bench/RESULTS.md, where it is far from
 * the usual; for progress only. The forecast needs the ratios, not the machine: a wrong entry makes the bar uneven,
 * nothing else.
 */
export const COSTS: Readonly<Record<string, number>> = {
  'adjust-colour': 980,
  'adjust-normal': 40,
  bevel: 510,
  blend: 40,
  blur: 720,
  bond: 1500,
  cells: 1630,
  constant: 1,
  'coverage-share': 30,
  curvature: 1620,
  'decode-srgb': 500,
  distance: 970,
  edges: 990,
  'encode-srgb': 600,
  'flat-normal': 1,
  'gradient-remap': 200,
  'grey-to-colour': 180,
  grow: 420,
  'height-to-occlusion': 3990,
  'high-pass': 300,
  image: 420,
  levels: 250,
  math: 40,
  'colour-mask': 1830,
  transform: 1130,
  regions: 190,
  shape: 1570,
  sharpen: 700,
  shrink: 700,
  'directional-blur': 1180,
  split: 6,
  stencil: 760,
  stripes: 40,
}

/** The usual. */
const OTHER = 90

/** Forecast cost of one texel of a step. Uniform steps cost next to nothing. */
export const costOf = (step: Step): number => (step.uniform ? 0.01 : (COSTS[step.node.type] ?? OTHER))
