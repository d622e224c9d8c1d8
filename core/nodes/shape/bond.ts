import type { Field } from '../../field/field'
import { floorMod, rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, integer, number, seed } from '../../graph/parameters'
import { id, grey, vector } from '../../graph/ports'
import { BONDS, BOND_NAMES } from '../../kernels/bonds/bonds'
import type { Copy } from '../../kernels/bonds/laid-units'
import { indexUnits, layUnits, unitDistance } from '../../kernels/bonds/laid-units'
import { coverage } from '../../kernels/point'
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
  notes: (params, { metres }) => {
    const height = metres[1] / metres[0]
    const { units, counts } = BONDS[params.bond]({ ...params, height, random: () => 0.5 })
    const area = (metres[0] * metres[1]) / units.length
    return [
      `Laid as ${counts[0]} × ${counts[1]}: ${units.length} units, each about ${Math.round(Math.sqrt(area) * 1000)} mm square in area.`,
    ]
  },
  prepare: (_, params, { documentSeed, metres }) =>
    layUnits({ ...params, height: metres[1] / metres[0] }, streamSeed(documentSeed, params.seed, 'bond')),
  evaluate: (_, params, out, { width, rows, metres, prepared: units }) => {
    const near = indexUnits(units, metres[1] / metres[0])
    const some = Object.values(out).find((field) => field !== undefined)
    if (!some) return
    const edge = Math.max(params.softness, 1 / width)
    const find = near && nearestUnit(near)
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const start = rowStart(some, y)
      const v = (floorMod(y, some.height) + 0.5) / width
      for (let x = 0; x < width; x++) {
        const i = start + x
        const u = (x + 0.5) / width
        const distance = find ? find(u, v) : -1
        if (out.mask) out.mask.planes[0]![i] = coverage(distance, edge)
        if (out.distance) out.distance.planes[0]![i] = distance + 0
        if (find) writeUnit(find.copy, u, v, i, out, params)
        else writeNothing(i, out)
      }
    }
  },
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

type Outputs = { readonly [K in 'value' | 'level' | 'id' | 'local' | 'direction']: Field | undefined }

/** What a texel takes from the unit it belongs to. */
function writeUnit(
  { unit, index, dx, dy }: Copy,
  u: number,
  v: number,
  i: number,
  { value, level, id, local, direction }: Outputs,
  { heightJitter, tilt }: { heightJitter: number; tilt: number },
): void {
  if (id) id.ids![i] = index
  if (value) value.planes[0]![i] = unit.value
  if (direction) {
    direction.planes[0]![i] = unit.along[0] + 0
    direction.planes[1]![i] = -unit.along[1] + 0
  }
  if (!local && !level) return
  const [cos, sin] = unit.along
  const px = u - dx - unit.centre[0]
  const py = v - dy - unit.centre[1]
  // −1 to 1 over the unit's box, along its length and across.
  const s = (px * cos - py * sin - unit.box[0]) / unit.box[2]
  const t = (px * sin + py * cos - unit.box[1]) / unit.box[3]
  if (local) {
    local.planes[0]![i] = (s + 1) / 2
    local.planes[1]![i] = (t + 1) / 2
  }
  if (level)
    level.planes[0]![i] =
      0.5 + heightJitter * unit.step + (tilt / 2) * (unit.lean[0] * withinOne(s) + unit.lean[1] * withinOne(t))
}

const withinOne = (v: number): number => (v < -1 ? -1 : v > 1 ? 1 : v)

/** A gap so wide that no unit is left. */
function writeNothing(i: number, { value, level, id, local, direction }: Outputs): void {
  if (id) id.ids![i] = 0
  if (level) level.planes[0]![i] = 0.5
  for (const field of [value, local, direction]) field?.planes.forEach((plane) => (plane[i] = 0))
}

/**
 * Finds the unit a place is deepest in, or else nearest to: gives the distance, and the copy as `copy`. Of equals the
 * first of the bucket counts, wherever the search began: it begins with the unit found last, as neighbours share it.
 */
function nearestUnit(
  near: (x: number, y: number) => readonly Copy[],
): ((x: number, y: number) => number) & { copy: Copy } {
  const find = ((x: number, y: number): number => {
    const copies = near(x, y)
    let best = copies.indexOf(find.copy)
    let max = best < 0 ? -Infinity : unitDistance(find.copy.unit, x - find.copy.dx, y - find.copy.dy)
    for (let k = 0; k < copies.length; k++) {
      const { unit, dx, dy } = copies[k]!
      const px = x - dx
      const py = y - dy
      const [left, top, right, bottom] = unit.bounds
      const ox = px < left ? left - px : px > right ? px - right : 0
      const oy = py < top ? top - py : py > bottom ? py - bottom : 0
      // Outside its box a unit is at least so far away.
      if ((ox > 0 || oy > 0) && (max >= 0 || ox * ox + oy * oy > max * max)) continue
      const distance = unitDistance(unit, px, py)
      if (distance > max || (distance === max && k < best)) {
        max = distance
        best = k
      }
    }
    find.copy = copies[best]!
    return max
  }) as ((x: number, y: number) => number) & { copy: Copy }
  return find
}
