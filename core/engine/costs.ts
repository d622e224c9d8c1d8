import type { Step } from '../graph/graph'

/**
 * Nanoseconds a texel and thread by node type, as `npm run bench -- nodes` measured it, where it is far from
 * the usual; for progress only. The forecast needs the ratios, not the machine: a wrong entry makes the bar uneven,
 * nothing else.
 */
export const COSTS: Readonly<Record<string, number>> = {
  'adjust-colour': 620,
  'adjust-normal': 25,
  bevel: 600,
  blend: 6,
  blur: 55,
  bond: 900,
  cells: 1300,
  'colour-mask': 1250,
  constant: 1,
  'coverage-share': 25,
  curvature: 200,
  'decode-srgb': 30,
  'directional-blur': 1450,
  distance: 1400,
  edges: 200,
  'encode-srgb': 30,
  'flat-normal': 1,
  'gradient-remap': 130,
  'grey-to-colour': 140,
  grow: 550,
  'height-to-occlusion': 100,
  'high-pass': 60,
  image: 330,
  levels: 180,
  math: 25,
  noise: 25,
  regions: 130,
  shape: 1090,
  sharpen: 65,
  shrink: 600,
  split: 4,
  stencil: 500,
  stripes: 30,
  transform: 770,
  warp: 270,
}

/** The usual. */
const OTHER = 70

/** Forecast cost of one texel of a step. Uniform steps cost next to nothing. */
export const costOf = (step: Step): number => (step.uniform ? 0.01 : (COSTS[step.node.type] ?? OTHER))
