import { LUMINANCE } from '../../colour/srgb'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckSubject } from '../subject'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import type { Mark } from '../texels-where'

/** Side of the raster that is compared, and how near shifts are no repeat but the thing itself. */
const SIDE = 48
const NEAR = 6
const LIMIT = 0.6
/** How far likeness must fall between the thing itself and its repeat. */
const VALLEY = 0.2

/** A part of the tile that looks like another part shows as a pattern over a large surface. */
const repeat: CheckRule = {
  name: 'repeat',
  title: 'Repeat within the tile',
  ofTiles: true,
  reference:
    'Autocorrelation by the Wiener–Khinchin definition, over colour at 48 texels a side; laid bonds repeat by their ' +
    'nature, so only a likeness of 0.6 is told (own choice).',
  run: (subject) => {
    const small = smallColour(subject)
    const { likeness, du, dv } = small ? strongestRepeat(small) : NONE
    if (!small || likeness < LIMIT) return []
    return [
      {
        severity: 'warning',
        channel: channelsFor(subject, 'repeat')[0]!.channel.id,
        message: `looks like itself (${likeness.toFixed(2)} of 1) moved by ${du.toFixed(2)} across and ${dv.toFixed(2)} down.`,
        value: likeness,
        fix: 'Let a large noise tint or mask it, so that its parts differ.',
        marks: alikeAt(small, du, dv),
      },
    ]
  },
  measure: (subject) => {
    const small = smallColour(subject)
    return small ? `likeness ${strongestRepeat(small).likeness.toFixed(2)} at most; under ${LIMIT} is left alone` : null
  },
}

const NONE = { likeness: 0, du: 0, dv: 0 }

function smallColour(subject: CheckSubject): Float64Array | null {
  const field = channelsFor(subject, 'repeat')[0]?.field
  return !field || field.stride === 0 || field.width < SIDE ? null : smallGrey(field)
}

/** The place that stands out most from the mean and is met again after the shift, and where it is met. */
function alikeAt(values: Float64Array, du: number, dv: number): Mark[] {
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length
  const [dx, dy] = [Math.round(du * SIDE), Math.round(dv * SIDE)]
  let best = { likeness: -Infinity, x: 0, y: 0 }
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const there = ((y + dy) % SIDE) * SIDE + ((x + dx) % SIDE)
      const likeness = (values[y * SIDE + x]! - mean) * (values[there]! - mean)
      if (likeness > best.likeness) best = { likeness, x, y }
    }
  const middle = (n: number): number => ((n % SIDE) + 0.5) / SIDE
  return [
    [middle(best.x), middle(best.y)],
    [middle(best.x + dx), middle(best.y + dy)],
  ]
}

/** Luminance averaged to SIDE × SIDE. */
function smallGrey(field: Field): Float64Array {
  const out = new Float64Array(SIDE * SIDE)
  const counts = new Float64Array(SIDE * SIDE)
  for (let y = 0; y < field.rows; y++) {
    const row = rowStart(field, y)
    const j = Math.floor((y * SIDE) / field.rows)
    for (let x = 0; x < field.width; x++) {
      const i = j * SIDE + Math.floor((x * SIDE) / field.width)
      let v = 0
      field.planes.forEach((plane, p) => (v += LUMINANCE[p]! * plane[row + x]!))
      out[i] = out[i]! + v
      counts[i] = counts[i]! + 1
    }
  }
  return out.map((sum, i) => sum / counts[i]!)
}

/** The highest peak of a raster's correlation with itself moved around a torus, by more than NEAR. */
function strongestRepeat(values: Float64Array): { likeness: number; du: number; dv: number } {
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length
  const centred = values.map((v) => v - mean)
  const power = centred.reduce((sum, v) => sum + v * v, 0)
  let best = NONE
  if (power < 1e-9) return best
  const at = (x: number, y: number): number => ((y + SIDE) % SIDE) * SIDE + ((x + SIDE) % SIDE)
  const likeness = new Float64Array(SIDE * SIDE)
  for (let dy = 0; dy < SIDE; dy++)
    for (let dx = 0; dx < SIDE; dx++) {
      let sum = 0
      for (let y = 0; y < SIDE; y++)
        for (let x = 0; x < SIDE; x++) sum += centred[at(x, y)]! * centred[at(x + dx, y + dy)]!
      likeness[at(dx, dy)] = sum / power
    }
  const short = (d: number): number => Math.min(d, SIDE - d)
  for (let dy = 0; dy < SIDE; dy++)
    for (let dx = 0; dx < SIDE; dx++) {
      const here = likeness[at(dx, dy)]!
      if (short(dx) ** 2 + short(dy) ** 2 < NEAR * NEAR || here <= best.likeness) continue
      // Large soft patches are like themselves nearby too; only a peak is a repeat.
      const peak = [-1, 0, 1].every((j) => [-1, 0, 1].every((i) => likeness[at(dx + i, dy + j)]! <= here))
      // Along an axis on which nothing changes everything is alike: a repeat is one that was left on the way.
      const [sx, sy] = [dx, dy].map((d) => (d > SIDE / 2 ? d - SIDE : d)) as [number, number]
      const way = Array.from(
        { length: SIDE },
        (_, i) => likeness[at(Math.round((sx * i) / SIDE), Math.round((sy * i) / SIDE))]!,
      )
      if (peak && Math.min(...way) < here - VALLEY) best = { likeness: here, du: dx / SIDE, dv: dy / SIDE }
    }
  return best
}
export default repeat
