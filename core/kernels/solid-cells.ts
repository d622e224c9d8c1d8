import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { hashInto, unitFloat } from '../random'
import type { Rows } from './rows'
import type { PlaneOf } from './simd'
import { simd } from './simd'
import { held } from './solid-noise'

export interface SolidCell {
  /** Distance to the nearest point, and to the second nearest, in cells. */
  nearest: number
  second: number
  /** Hash of the cell of the nearest point. */
  hash: number
}

/** Cells around the one of a place, the nearest first: a second nearest point is at most two cells away along each axis. */
const AROUND = [0, -1, 1, -2, 2]

/** How far a coordinate within its cell, 0–1, is from the cell `c` cells on. */
const gap = (within: number, c: number): number => (c > 0 ? c - within : c < 0 ? within - c - 1 : 0)

/**
 * Cells of space: each holds one point, moved off its middle by at most `jitter` halves of a cell; the two nearest points exactly.
 * Source: S. Worley, "A Cellular Texture Basis Function", SIGGRAPH 1996; cells farther than the second nearest yet are left out.
 */
export function solidCell(seed: number, jitter: number, px: number, py: number, pz: number, out: SolidCell): SolidCell {
  const [x, y, z] = [held(px), held(py), held(pz)]
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)]
  const [u, v, w] = [x - i, y - j, z - k]
  let [nearest, second, found] = [Infinity, Infinity, 0]
  for (const c of AROUND) {
    const deep = gap(w, c) * gap(w, c)
    if (deep >= second) continue
    const layer = hashInto(seed, k + c)
    for (const b of AROUND) {
      const high = deep + gap(v, b) * gap(v, b)
      if (high >= second) continue
      const row = hashInto(layer, j + b)
      for (const a of AROUND) {
        if (high + gap(u, a) * gap(u, a) >= second) continue
        const hash = hashInto(row, i + a)
        const dx = a + 0.5 + jitter * (unitFloat(hashInto(hash, 1)) - 0.5) - u
        const dy = b + 0.5 + jitter * (unitFloat(hashInto(hash, 2)) - 0.5) - v
        const dz = c + 0.5 + jitter * (unitFloat(hashInto(hash, 3)) - 0.5) - w
        const away = dx * dx + dy * dy + dz * dz
        if (away < nearest) {
          second = nearest
          nearest = away
          found = hash
        } else if (away < second) second = away
      }
    }
  }
  out.nearest = Math.sqrt(nearest)
  out.second = Math.sqrt(second)
  out.hash = found >>> 0
  return out
}

export type SolidCellOutputs = Readonly<Partial<Record<'value' | 'distance' | 'border' | 'id', Field>>>

/** What cells come to at rows of places in metres: a random value, distances in cells, a number of 24 bits. */
export function solidCellsField(
  { seed, jitter, size }: { readonly seed: number; readonly jitter: number; readonly size: number },
  position: Field,
  outputs: SolidCellOutputs,
  rows: Rows,
): void {
  const { value, distance, border, id } = outputs
  const { width } = position
  const twin = simd()
  if (twin) {
    const planes = position.planes.map((plane): PlaneOf => [position, plane])
    const asked = [value, distance, border, id].flatMap((field): PlaneOf[] =>
      field ? [[field, numbersOf(field)]] : [],
    )
    return twin.runs(rows, width, planes, asked, (count, [xs, ys, zs], targets) => {
      const rest = [...targets]
      const [toValue, toDistance, toBorder, toId] = [value, distance, border, id].map((field) =>
        field ? rest.shift()! : 0,
      ) as [number, number, number, number]
      const at = [xs!, ys!, zs!, count, 1 / size, jitter, seed] as const
      twin.assembly.solidCellsRow(...at, toValue, toDistance, toBorder, toId)
    })
  }
  const [px, py, pz] = position.planes as [Float32Array, Float32Array, Float32Array]
  const cell: SolidCell = { nearest: 0, second: 0, hash: 0 }
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const at = rowStart(position, y)
    for (let x = 0; x < width; x++) {
      const across = 1 / size
      solidCell(seed, jitter, px[at + x]! * across, py[at + x]! * across, pz[at + x]! * across, cell)
      if (value) value.planes[0]![rowStart(value, y) + x] = unitFloat(cell.hash)
      if (distance) distance.planes[0]![rowStart(distance, y) + x] = cell.nearest
      if (border) border.planes[0]![rowStart(border, y) + x] = cell.second - cell.nearest
      if (id) id.ids![rowStart(id, y) + x] = cell.hash >>> 8
    }
  }
}

/** The values of a plane as they are copied, whatever they mean. */
const numbersOf = ({ planes, ids }: Field): Float32Array =>
  ids ? new Float32Array(ids.buffer, ids.byteOffset, ids.length) : planes[0]!
