import { defineNode } from '../../graph/define-node'
import { choice, integer, number, pair } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { SHAPES, figureOf, shapeFields } from '../../kernels/shapes'

/** Version 1 took the lesser of an uneven disc's sizes for both. */
function keepRound(params: Record<string, unknown>): Record<string, unknown> {
  const { shape = 'disc', size } = params
  if (shape !== 'disc' || !Array.isArray(size)) return params
  const min = Math.min(...(size as number[]))
  return { ...params, size: [min, min] }
}

/** A plain figure by its signed distance. Source: kernels/shapes.ts. */
export default defineNode({
  type: 'shape',
  version: 2,
  family: 'shape',
  title: 'Shape',
  summary: 'A disc, box, polygon, star, ring, capsule or cross, once or repeated.',
  keywords: [
    'circle',
    'square',
    'rectangle',
    'rounded box',
    'triangle',
    'hexagon',
    'pill',
    'plus',
    'dot',
    'sdf',
    'svg',
    'vector',
  ],
  params: {
    shape: choice({ default: 'disc', options: SHAPES, help: 'Which figure.' }),
    size: pair({
      default: [0.6, 0.6],
      min: 0.001,
      max: 2,
      softRange: [0.01, 1],
      unit: 'tile',
      help: 'Width and height, as shares of one repeat’s width; an uneven disc is an ellipse.',
    }),
    rounding: number({
      visibleWhen: { shape: ['box', 'polygon', 'star', 'cross'] },
      default: 0,
      min: 0,
      max: 1,
      softRange: [0, 0.2],
      help: 'Radius of corners, in the same measure.',
    }),
    sides: integer({
      visibleWhen: { shape: ['polygon', 'star'] },
      default: 6,
      min: 3,
      max: 64,
      softRange: [3, 12],
      help: 'Corners of a polygon, points of a star.',
    }),
    inner: number({
      visibleWhen: { shape: ['star', 'ring', 'cross'] },
      default: 0.5,
      min: 0.01,
      max: 1,
      help: 'A star’s inner radius, a ring’s thickness, a cross’s arms: shares of the radius.',
    }),
    angle: number({ default: 0, min: -8, max: 8, softRange: [0, 1], unit: 'turn', help: 'Counter-clockwise turn.' }),
    centre: pair({
      default: [0.5, 0.5],
      min: -4,
      max: 4,
      softRange: [0, 1],
      help: 'Where the middle lies, in repeats.',
    }),
    repeat: pair({
      default: [1, 1],
      min: 1,
      max: 256,
      softRange: [1, 32],
      whole: true,
      unit: 'cells',
      help: 'How often across and down.',
    }),
    softness: number({
      default: 0,
      min: 0,
      max: 1,
      softRange: [0, 0.2],
      unit: 'tile',
      help: 'Width of the edge; one texel at the least.',
    }),
  },
  inputs: {},
  outputs: {
    grey: grey({ help: '1 inside, 0 outside.' }),
    distance: grey({ help: 'To the edge, as a share of the tile’s width: above 0 inside, below 0 outside.' }),
  },
  uses: ['metres'],
  footprint: 'point',
  upgrade: { 1: keepRound },
  presets: [
    { title: 'Washer', keywords: ['ring', 'hole'], params: { shape: 'ring', inner: 0.5 } },
    { title: 'Bolt head', keywords: ['hexagon', 'nut'], params: { shape: 'polygon', sides: 6, rounding: 0.05 } },
    { title: 'Slot', keywords: ['capsule', 'pill'], params: { shape: 'capsule', size: [0.7, 0.25] } },
  ],
  evaluate: (_, params, out, { width, rows, metres }) => {
    const cell = 1 / params.repeat[0]
    const figure = figureOf({
      ...params,
      size: [params.size[0] * cell, params.size[1] * cell],
      rounding: params.rounding * cell,
    })
    const repeated = {
      repeat: params.repeat,
      height: metres[1] / metres[0],
      centre: [params.centre[0] * cell, params.centre[1] / params.repeat[1]] as const,
      turns: params.angle,
      edge: Math.max(params.softness, 1 / width),
    }
    shapeFields(figure, repeated, out, rows)
  },
  example: { params: { shape: 'star', sides: 5, repeat: [2, 2], size: [0.8, 0.8], rounding: 0.04 } },
})
