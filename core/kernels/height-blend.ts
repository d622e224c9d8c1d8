import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { mixBounded } from './blend-fields'
import { smoothstep } from './point'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { pieceRows, simd } from './simd'

interface Inputs {
  readonly first: Field
  readonly second: Field
  readonly firstHeight: Field
  readonly secondHeight: Field
}

interface Outputs {
  readonly result?: Field
  readonly height?: Field
  readonly mask?: Field
}

/** Of two fields the one that stands higher, mixed over `softness`; `raise` lifts the second. Source: common practice. */
export function blendByHeight(inputs: Inputs, raise: number, softness: number, out: Outputs, rows: Rows): void {
  const twin = simd()
  if (twin) return twin.scratch(() => bySimd(twin, inputs, raise, softness, out, rows))
  const { first, second, firstHeight, secondHeight } = inputs
  const width = firstHeight.width
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const at = (field: Field | undefined): number => (field ? rowStart(field, y) : 0)
    const [f0, s0, a0, b0] = [at(first), at(second), at(firstHeight), at(secondHeight)]
    const [r, h, m] = [at(out.result), at(out.height), at(out.mask)]
    for (let x = 0; x < width; x++) {
      const low = firstHeight.planes[0]![a0 + x]!
      const high = Math.fround(secondHeight.planes[0]![b0 + x]! + raise)
      const w = smoothstep(-softness / 2, softness / 2, Math.fround(high - low))
      if (out.mask) out.mask.planes[0]![m + x] = w
      if (out.height) out.height.planes[0]![h + x] = mixBounded(low, high, w)
      out.result?.planes.forEach(
        (plane, p) => (plane[r + x] = mixBounded(first.planes[p]![f0 + x]!, second.planes[p]![s0 + x]!, w)),
      )
    }
  }
}

function bySimd(twin: Simd, inputs: Inputs, raise: number, softness: number, out: Outputs, rows: Rows): void {
  const { first, second, firstHeight, secondHeight } = inputs
  const { width } = firstHeight
  const piece = pieceRows(width)
  const [aRoom, bRoom, raised, share, room] = Array.from({ length: 5 }, () => twin.take(piece * width)) as [
    number,
    number,
    number,
    number,
    number,
  ]
  for (let y = rows.from; y < rows.to; y += piece) {
    rows.check()
    const to = Math.min(rows.to, y + piece)
    const count = (to - y) * width
    const low = twin.rowsOf(firstHeight, firstHeight.planes[0]!, y, to, aRoom)
    const high = twin.rowsOf(secondHeight, secondHeight.planes[0]!, y, to, bRoom)
    twin.assembly.heightShare(low, high, raised, share, count, raise, -softness / 2, softness / 2)
    if (out.mask) twin.copyOut(share, out.mask, out.mask.planes[0]!, y, to)
    const mix = (target: Field, plane: Float32Array, a: number, b: number): void => {
      const result = twin.target(target, plane, y, to, room)
      twin.assembly.blend(0, a, b, share, result, count, 1)
      twin.written(result, target, plane, y, to, room)
    }
    if (out.height) mix(out.height, out.height.planes[0]!, low, raised)
    out.result?.planes.forEach((plane, p) => {
      const a = twin.rowsOf(first, first.planes[p]!, y, to, aRoom)
      const b = twin.rowsOf(second, second.planes[p]!, y, to, bRoom)
      mix(out.result!, plane, a, b)
    })
  }
}
