import { floorMod, rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, integer, number, seed } from '../../graph/parameters'
import { count, grey, vector } from '../../graph/ports'
import { BONDS, BOND_NAMES } from '../../kernels/bonds/bonds'
import type { Copy, Unit } from '../../kernels/bonds/laid-units'
import { inFrame, indexUnits, layUnits, unitDistance } from '../../kernels/bonds/laid-units'
import { cosTurns, sinTurns } from '../../kernels/elementary'
import { hashInto, streamSeed, unitFloat } from '../../random'

/** Laid units: walls, paving, parquet. Source of the layings: kernels/bonds; own derivations of trade patterns. */
export default defineNode({
  type: 'bond',
  version: 1,
  family: 'shape',
  title: 'Bond',
  summary: 'Units laid in a pattern: bricks, setts, boards, tiles.',
  find: ['brick', 'wall', 'paving', 'tiles', 'planks', 'parquet', 'cobble', 'sett', 'mosaic', 'pattern'],
  params: {
    bond: choice({ default: 'running', options: BOND_NAMES, help: 'How the units are laid.' }),
    columns: integer({
      default: 6,
      min: 1,
      max: 48,
      usual: [1, 24],
      help: 'Units across the tile; fans, blocks or pairs where the bond is made of those. Snapped so that the tile closes.',
    }),
    aspect: number({
      default: 2,
      min: 0.25,
      max: 6,
      usual: [0.5, 4],
      help: 'Length of a unit over its breadth. Snapped so that the tile closes.',
    }),
    gap: number({ default: 0.008, min: 0, max: 0.2, usual: [0, 0.04], unit: 'tile', help: 'Width between units.' }),
    rounding: number({ default: 0.006, min: 0, max: 0.5, usual: [0, 0.05], unit: 'tile', help: 'Radius of corners.' }),
    softness: number({
      default: 0,
      min: 0,
      max: 0.2,
      usual: [0, 0.03],
      unit: 'tile',
      help: 'Width of the mask’s edge; one texel at the least.',
    }),
    shift: number({ default: 0.5, min: 0, max: 1, help: 'Running: how far every other course is moved, in units.' }),
    slant: number({
      default: 0.125,
      min: -0.2,
      max: 0.2,
      unit: 'turn',
      help: 'Chevron: the angle at which units rise.',
    }),
    rings: integer({ default: 6, min: 2, max: 16, help: 'Fan: arcs in a fan.' }),
    spread: number({ default: 0.6, min: 0, max: 0.9, help: 'Random widths: how unlike they are.' }),
    moved: number({
      default: 0,
      min: 0,
      max: 0.1,
      usual: [0, 0.02],
      unit: 'tile',
      title: 'Moved',
      help: 'How far units may lie from their place.',
    }),
    turned: number({
      default: 0,
      min: 0,
      max: 0.5,
      usual: [0, 0.03],
      unit: 'turn',
      title: 'Turned',
      help: 'How far units may be turned out of line.',
    }),
    shrunk: number({
      default: 0,
      min: 0,
      max: 0.9,
      usual: [0, 0.3],
      title: 'Smaller',
      help: 'By how much units may be smaller, as a share of themselves.',
    }),
    uneven: number({
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
    id: count({ help: 'A number for each unit.' }),
    local: vector({ help: 'The place within the unit, 0 to 1 along and across it.' }),
    direction: vector({ help: 'The direction of each unit’s length, of length 1.' }),
  },
  hardEdged: ['value', 'level', 'local', 'direction'],
  uses: ['seed', 'metres'],
  reach: () => 'point',
  says: (params, { metres }) => {
    const height = metres[1] / metres[0]
    const { units, counts } = BONDS[params.bond]({ ...params, height, random: () => 0.5 })
    const area = (metres[0] * metres[1]) / units.length
    return [
      `Laid as ${counts[0]} × ${counts[1]}: ${units.length} units, each about ${Math.round(Math.sqrt(area) * 1000)} mm square in area.`,
    ]
  },
  evaluate: (_, params, out, { width, rows, documentSeed, metres }) => {
    const tileHeight = metres[1] / metres[0]
    const units = layUnits({ ...params, height: tileHeight }, streamSeed(documentSeed, params.seed, 'bond'))
    const near = indexUnits(units, tileHeight)
    const some = Object.values(out).find((field) => field !== undefined)
    if (!some) return
    const edge = Math.max(params.softness, 1 / width)
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const start = rowStart(some, y)
      const v = (floorMod(y, some.height) + 0.5) / width
      for (let x = 0; x < width; x++) {
        const i = start + x
        const u = (x + 0.5) / width
        const found = near ? nearest(near(u, v), u, v) : null
        const distance = found ? found.distance : -1
        if (out.mask) {
          const share = 0.5 + distance / edge
          out.mask.planes[0]![i] = share < 0 ? 0 : share > 1 ? 1 : share
        }
        if (out.distance) out.distance.planes[0]![i] = distance + 0
        if (out.id) out.id.counts![i] = found ? found.copy.index : 0
        if (out.value) out.value.planes[0]![i] = found ? ownRandom(found.copy.unit, 11) : 0
        if (!found) {
          if (out.level) out.level.planes[0]![i] = 0.5
          for (const field of [out.local, out.direction]) field?.planes.forEach((plane) => (plane[i] = 0))
          continue
        }
        const { unit, dx, dy } = found.copy
        if (out.direction) {
          out.direction.planes[0]![i] = unit.along[0] + 0
          out.direction.planes[1]![i] = -unit.along[1] + 0
        }
        if (!out.local && !out.level) continue
        const [along, across] = inFrame(unit, u - dx, v - dy)
        const s = (along - unit.box[0]) / unit.box[2]
        const t = (across - unit.box[1]) / unit.box[3]
        if (out.local) {
          out.local.planes[0]![i] = (s + 1) / 2
          out.local.planes[1]![i] = (t + 1) / 2
        }
        if (out.level) out.level.planes[0]![i] = levelAt(unit, params, s, t)
      }
    }
  },
  example: { params: { bond: 'herringbone', columns: 3, aspect: 3, uneven: 0.5, turned: 0.005, moved: 0.002, seed: 3 } },
})

const ownRandom = (unit: Unit, what: number): number => unitFloat(hashInto(unit.stream, what))

/** ½ + a step of its own + a lean in a direction of its own, where s and t run −1…1 over the unit's box. */
function levelAt(unit: Unit, { uneven, tilt }: { uneven: number; tilt: number }, s: number, t: number): number {
  const lean = ownRandom(unit, 13)
  return (
    0.5 +
    uneven * (ownRandom(unit, 12) - 0.5) +
    (tilt / 2) * (cosTurns(lean) * (s < -1 ? -1 : s > 1 ? 1 : s) + sinTurns(lean) * (t < -1 ? -1 : t > 1 ? 1 : t))
  )
}

/** The unit a place is deepest in, or else nearest to. */
function nearest(copies: readonly Copy[], x: number, y: number): { copy: Copy; distance: number } | null {
  let best: Copy | null = null
  let most = -Infinity
  for (const copy of copies) {
    const px = x - copy.dx
    const py = y - copy.dy
    const [left, top, right, bottom] = copy.unit.bounds
    const ox = px < left ? left - px : px > right ? px - right : 0
    const oy = py < top ? top - py : py > bottom ? py - bottom : 0
    // Outside its box a unit is at least so far away.
    if ((ox > 0 || oy > 0) && (most >= 0 || ox * ox + oy * oy > most * most)) continue
    const distance = unitDistance(copy.unit, px, py)
    if (distance > most) {
      most = distance
      best = copy
    }
  }
  return best && { copy: best, distance: most }
}
