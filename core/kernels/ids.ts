import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { hashInto } from '../random'
import type { Region } from './regions'
import type { Rows } from './rows'
import { simd } from './simd'

/** The bits of IDs, as planes are moved about. */
const bitsOf = (ids: Uint32Array): Float32Array => new Float32Array(ids.buffer, ids.byteOffset, ids.length)

/**
 * By each texel's ID one of several fields: ID modulo their number, or where `stream` is not null the ID's hash in that stream
 * modulo it. Shape: all fields but `by` alike. Twins: core/kernels/assembly/ids.ts.
 */
export function dealtValues(sources: readonly Field[], by: Field, stream: number | null, out: Field, rows: Rows): void {
  const { width } = out
  const twin = simd()
  if (twin) {
    const planes = sources.flatMap((source) => source.planes.map((plane) => [source, plane] as const))
    const outputs = out.planes.map((plane) => [out, plane] as const)
    return twin.runs(rows, width, [[by, bitsOf(by.ids!)], ...planes], outputs, (count, [ids, ...from], to) =>
      twin.scratch(() => {
        const dealt = twin.take(count)
        twin.assembly.dealSources(ids!, dealt, count, sources.length, stream ?? 0, stream !== null)
        to.forEach((target, p) =>
          twin.assembly.takeDealt(dealt, twin.offsets(from.filter((_, i) => i % to.length === p)), target, count),
        )
      }),
    )
  }
  const which = new Uint8Array(width)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const ids = by.ids!
    const [b, o] = [rowStart(by, y), rowStart(out, y)]
    for (let x = 0; x < width; x++) {
      const id = ids[b + x]!
      which[x] = (stream === null ? id : hashInto(stream, id)) % sources.length
    }
    const starts = sources.map((source) => rowStart(source, y))
    out.planes.forEach((plane, p) => {
      const planes = sources.map((source) => source.planes[p]!)
      for (let x = 0; x < width; x++) plane[o + x] = planes[which[x]!]![starts[which[x]!]! + x]!
    })
  }
}

/** Values of a table by the IDs of whole rows, `ids` row by row from the top; the table begins with what belongs to ID 0. */
export function valuesById(ids: Uint32Array, table: Float32Array, out: Field, plane: Float32Array, rows: Rows): void {
  const { width, height } = out
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const values = twin.allOf(table)
      const [idRoom, room] = [twin.take(width), twin.take(width)]
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const from = floorMod(y, height) * width
        twin.ints(idRoom, width).set(ids.subarray(from, from + width))
        const target = twin.target(out, plane, y, y + 1, room)
        twin.assembly.valuesById(idRoom, values, target, width)
        twin.written(target, out, plane, y, y + 1, room)
      }
    })
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [from, start] = [floorMod(y, height) * width, rowStart(out, y)]
    for (let x = 0; x < width; x++) plane[start + x] = table[ids[from + x]!]!
  }
}

/** Places within each area's box, 0–1 right and down, for the IDs of whole rows; 0 where there is no area. */
export function placesWithin(areas: readonly Region[], ids: Uint32Array, out: Field, rows: Rows): void {
  const { width, height, planes } = out
  const [u, v] = planes as [Float32Array, Float32Array]
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const boxes = twin.take(8 * (areas.length + 1))
      const numbers = new Float64Array(twin.shared.buffer, boxes, 4 * (areas.length + 1))
      numbers.fill(0, 0, 4)
      areas.forEach(({ left, top, right, bottom }, i) =>
        numbers.set([left, top, right - left, bottom - top], 4 * (i + 1)),
      )
      const [idRoom, uRoom, vRoom] = [0, 0, 0].map(() => twin.take(width)) as [number, number, number]
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const row = floorMod(y, height)
        twin.ints(idRoom, width).set(ids.subarray(row * width, (row + 1) * width))
        const [uAt, vAt] = [twin.target(out, u, y, y + 1, uRoom), twin.target(out, v, y, y + 1, vRoom)]
        twin.assembly.placesWithin(idRoom, boxes, uAt, vAt, width, row, height)
        twin.written(uAt, out, u, y, y + 1, uRoom)
        twin.written(vAt, out, v, y, y + 1, vRoom)
      }
    })
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [row, start] = [floorMod(y, height), rowStart(out, y)]
    for (let x = 0; x < width; x++) {
      const id = ids[row * width + x]!
      const area = id === 0 ? null : areas[id - 1]!
      u[start + x] = area ? (floorMod(x - area.left, width) + 0.5) / (area.right - area.left) : 0
      v[start + x] = area ? (floorMod(row - area.top, height) + 0.5) / (area.bottom - area.top) : 0
    }
  }
}
