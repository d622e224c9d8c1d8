import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { CONTOUR_PHASES, CONTOUR_PLANES, contourDistances } from '../../kernels/contour-distance'

/** Height over the share of the width that has been climbed, 0–1. */
const PROFILES = {
  round: (t) => Math.sqrt(1 - (1 - t) * (1 - t)),
  straight: (t) => t,
  smooth: (t) => t * t * (3 - 2 * t),
  hollow: (t) => 1 - Math.sqrt(1 - t * t),
} as const satisfies Record<string, (t: number) => number>

/** A mask as a raised shape with a shaped rim. Source of the distance: kernels/contour-distance.ts. */
export default defineNode({
  type: 'bevel',
  version: 2,
  family: 'filter',
  title: 'Bevel',
  summary: 'Raises a mask with a rounded, straight or hollow rim.',
  keywords: ['emboss', 'round edges', 'chamfer', 'profile', 'raise'],
  usualFor: ['grey'],
  params: {
    width: number({
      default: 0.03,
      min: 0.0001,
      max: 0.5,
      softRange: [0.002, 0.1],
      unit: 'tile',
      help: 'Width of the rim.',
    }),
    profile: choice({
      default: 'round',
      options: Object.keys(PROFILES) as (keyof typeof PROFILES)[],
      help: 'A quarter circle, a slope, an eased slope, or a cove.',
    }),
    side: choice({
      default: 'inside',
      options: ['inside', 'outside'],
      help: 'The rim climbs within the mask, or up to it from outside.',
    }),
    level: number({
      default: 0.5,
      min: -100,
      max: 100,
      softRange: [0, 1],
      help: 'The mask is what reaches this value.',
    }),
  },
  inputs: { source: grey({ help: 'The mask.' }) },
  outputs: { height: grey({ help: '0 below, 1 on top.' }) },
  footprint: 'whole',
  footprintOnPart: ({ width: rim }, { width }) => Math.ceil(rim * width) + 2,
  mixedAtSeams: true,
  sliceable: false,
  scratchPlanes: () => CONTOUR_PLANES,
  presets: [
    { title: 'Rounded edge', keywords: ['soft', 'bullnose'], params: { profile: 'round' } },
    { title: 'Chamfer', keywords: ['cut', 'slanted'], params: { width: 0.015, profile: 'straight' } },
    { title: 'Cove', keywords: ['concave', 'moulding'], params: { profile: 'hollow' } },
  ],
  phases: CONTOUR_PHASES,
  evaluate: ({ source }, { width: rim, profile, side, level }, { height }, context) => {
    if (!height) return
    const climb = PROFILES[profile]
    // In widths of what is worked on: of a tile, or of the picture of an island.
    const most = (rim * context.tileTexels) / context.width
    contourDistances(source, level, [{ side, most }], context, (_, y, distances) => {
      const start = rowStart(height, y)
      const out = height.planes[0]!
      for (let x = 0; x < distances.length; x++) {
        const ratio = Math.min(1, distances[x]! / most)
        out[start + x] = climb(side === 'inside' ? ratio : 1 - ratio)
      }
    })
  },
  example: {
    nodes: { spots: { type: 'spots', params: { cells: [4, 4], size: [0.8, 1.6] } } },
    inputs: { source: 'spots.grey' },
    params: { width: 0.12 },
  },
})
