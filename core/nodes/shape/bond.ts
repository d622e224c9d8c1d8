import { defineNode } from '../../graph/define-node'
import { choice, integer, number, seed } from '../../graph/parameters'
import { id, grey, vector } from '../../graph/ports'
import { BONDS, BOND_NAMES } from '../../kernels/bonds/bonds'
import { bondFields, packUnits } from '../../kernels/bonds/bond-fields'
import { layUnits } from '../../kernels/bonds/laid-units'
import { streamSeed } from '../../random'

/** Laid units: walls, paving, parquet. Source of the layings: kernels/bonds; own derivations of trade patterns. */
export default defineNode({
  type: 'bond',
  version: 1,
  family: 'shape',
  title: 'Bond',
  summary: 'Units laid in a pattern: bricks, setts, boards, tiles.',
  keywords: ['brick', 'wall', 'paving', 'tiles', 'planks', 'parquet', 'cobble', 'sett', 'mosaic', 'pattern'],
  params: {
    bond: choice({ default: 'running', options: BOND_NAMES, help: 'How the units are laid.' }),
    columns: integer({
      default: 6,
      min: 1,
      max: 48,
      softRange: [1, 24],
      help: 'How many lengths of a unit go across the tile. Snapped so that the tile closes.',
    }),
    aspect: number({
      visibleWhen: { bond: BOND_NAMES.filter((name) => name !== 'hexagon') },
      default: 2,
      min: 0.25,
      max: 6,
      softRange: [0.5, 4],
      help: 'Length of a unit over its breadth. Snapped so that the tile closes.',
    }),
    gap: number({ default: 0.008, min: 0, max: 0.2, softRange: [0, 0.04], unit: 'tile', help: 'Width between units.' }),
    rounding: number({
      default: 0.006,
      min: 0,
      max: 0.5,
      softRange: [0, 0.05],
      unit: 'tile',
      help: 'Radius of corners.',
    }),
    softness: number({
      default: 0,
      min: 0,
      max: 0.2,
      softRange: [0, 0.03],
      unit: 'tile',
      help: 'Width of the mask’s edge; one texel at the least.',
    }),
    shift: number({
      visibleWhen: { bond: ['running'] },
      default: 0.5,
      min: 0,
      max: 1,
      help: 'How far every other course is moved, in units.',
    }),
    slant: number({
      visibleWhen: { bond: ['chevron'] },
      default: 0.125,
      min: -0.2,
      max: 0.2,
      unit: 'turn',
      help: 'The angle at which units rise.',
    }),
    rings: integer({ visibleWhen: { bond: ['fan'] }, default: 6, min: 2, max: 16, help: 'Arcs in a fan.' }),
    spread: number({
      visibleWhen: { bond: ['random-widths'] },
      default: 0.6,
      min: 0,
      max: 0.9,
      help: 'How unlike the widths are.',
    }),
    positionJitter: number({
      default: 0,
      min: 0,
      max: 0.1,
      softRange: [0, 0.02],
      unit: 'tile',
      title: 'Position jitter',
      help: 'How far units may lie from their place.',
    }),
    rotationJitter: number({
      default: 0,
      min: 0,
      max: 0.5,
      softRange: [0, 0.03],
      unit: 'turn',
      title: 'Rotation jitter',
      help: 'How far units may be turned out of line.',
    }),
    sizeJitter: number({
      default: 0,
      min: 0,
      max: 0.9,
      softRange: [0, 0.3],
      title: 'Size jitter',
      help: 'By how much units may be smaller, as a share of themselves.',
    }),
    heightJitter: number({
      default: 0.2,
      min: 0,
      max: 1,
      help: 'For the level: how much higher one unit may lie than another.',
    }),
    tilt: number({ default: 0.1, min: 0, max: 1, help: 'For the level: how much units may lean.' }),
    seed: seed(),
  },
  inputs: {},
  outputs: {
    mask: grey({ help: '1 on units, 0 in gaps.' }),
    distance: grey({
      help: 'To the nearest edge, as a share of the tile’s width: above 0 inside units, below 0 in gaps.',
    }),
    value: grey({ help: 'A random value for each unit.' }),
    level: grey({ help: 'The top of each unit, uneven and leaning, about ½; goes on into the gap.' }),
    id: id({ help: 'A number for each unit.' }),
    local: vector({ help: 'The place within the unit, 0 to 1 along and across it.' }),
    direction: vector({ help: 'The direction of each unit’s length, of length 1.' }),
  },
  hardEdged: ['value', 'level', 'local', 'direction'],
  uses: ['seed', 'metres'],
  footprint: 'point',
  presets: [
    { title: 'Bricks', keywords: ['wall', 'masonry'], params: { bond: 'running', columns: 5, aspect: 3 } },
    {
      title: 'Flagstones',
      keywords: ['paving', 'slabs'],
      params: { bond: 'random-widths', columns: 4, aspect: 1.5, sizeJitter: 0.1 },
    },
    {
      title: 'Parquet',
      keywords: ['floor', 'wood', 'herringbone'],
      params: { bond: 'herringbone', columns: 8, aspect: 4, gap: 0.003, rounding: 0 },
    },
    { title: 'Honeycomb', keywords: ['hexagon', 'wax'], params: { bond: 'hexagon', columns: 8, aspect: 1 } },
    { title: 'Setts in arcs', keywords: ['cobble', 'fan', 'segment'], params: { bond: 'fan', columns: 4 } },
  ],
  notes: (params, { metres }) => {
    const height = metres[1] / metres[0]
    const { units, counts } = BONDS[params.bond]({ ...params, height, random: () => 0.5 })
    const area = (metres[0] * metres[1]) / units.length
    return [
      `Laid as ${counts[0]} × ${counts[1]}: ${units.length} units, each about ${Math.round(Math.sqrt(area) * 1000)} mm square in area.`,
    ]
  },
  prepare: (_, params, { documentSeed, metres }) => {
    const height = metres[1] / metres[0]
    const units = layUnits({ ...params, height }, streamSeed(documentSeed, params.seed, 'bond'))
    return { units, packed: packUnits(units, height) }
  },
  evaluate: (_, { softness, heightJitter, tilt }, out, { width, rows, metres, prepared: laid }) =>
    bondFields(laid, { softness, heightJitter, tilt, width, height: metres[1] / metres[0] }, out, rows),
  example: {
    params: {
      bond: 'herringbone',
      columns: 6,
      aspect: 3,
      heightJitter: 0.5,
      rotationJitter: 0.005,
      positionJitter: 0.002,
      seed: 3,
    },
  },
})
