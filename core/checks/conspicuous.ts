import { LUMINANCE } from '../colour/srgb'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { encodedTexel } from '../kernels/srgb'
import type { Mark } from './texels-where'

/** Cells along a side of the tile whose means are compared, and how far around a cell its surroundings reach. */
const CELLS = 24
const AROUND = 4

/** The place of a tile that the eye finds again in each repeat. */
export interface Conspicuous {
  readonly at: Mark
  /** How much lighter (or darker, below 0) it is than what lies around it, of 0–1 as the eye sees it. */
  readonly lighter: number
  /** The same in standard deviations of all cells. */
  readonly deviations: number
}

/**
 * Where a tile stands out most from what lies around it, over the tile's borders too: what shows first that a surface repeats.
 * Null where it is the same everywhere. Source: own derivation (a cell against its surroundings, by luminance).
 */
export function conspicuousPlace(field: Field): Conspicuous | null {
  if (field.stride === 0) return null
  const cells = cellMeans(field)
  const at = (x: number, y: number): number => cells[((y + CELLS) % CELLS) * CELLS + ((x + CELLS) % CELLS)]!
  const contrast = Float64Array.from(cells, (_, i) => {
    const [x, y] = [i % CELLS, Math.floor(i / CELLS)]
    let [centre, around] = [0, 0]
    for (let j = -AROUND; j <= AROUND; j++)
      for (let k = -AROUND; k <= AROUND; k++) {
        if (Math.max(Math.abs(j), Math.abs(k)) <= 1) centre += at(x + k, y + j) / 9
        else around += at(x + k, y + j) / ((2 * AROUND + 1) ** 2 - 9)
      }
    return centre - around
  })
  const deviation = Math.sqrt(contrast.reduce((sum, v) => sum + v * v, 0) / contrast.length)
  if (deviation < 1e-6) return null
  const best = contrast.reduce((most, v, i) => (Math.abs(v) > Math.abs(contrast[most]!) ? i : most), 0)
  return {
    at: [((best % CELLS) + 0.5) / CELLS, (Math.floor(best / CELLS) + 0.5) / CELLS],
    lighter: contrast[best]!,
    deviations: Math.abs(contrast[best]!) / deviation,
  }
}

/** Mean luminance of each cell, as the eye sees it. */
function cellMeans(field: Field): Float64Array {
  const sums = new Float64Array(CELLS * CELLS)
  const counts = new Float64Array(CELLS * CELLS)
  const { width, rows, planes, type } = field
  for (let y = 0; y < rows; y++) {
    const start = rowStart(field, y)
    const j = Math.floor((y * CELLS) / rows)
    for (let x = 0; x < width; x++) {
      const i = j * CELLS + Math.floor((x * CELLS) / width)
      let v = 0
      if (type === 'colour') for (let p = 0; p < 3; p++) v += LUMINANCE[p]! * planes[p]![start + x]!
      else v = planes[0]![start + x]!
      sums[i] = sums[i]! + v
      counts[i] = counts[i]! + 1
    }
  }
  return sums.map((sum, i) => (type === 'colour' ? encodedTexel : Number)(counts[i] ? sum / counts[i]! : 0))
}
