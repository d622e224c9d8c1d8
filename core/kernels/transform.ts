import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { bounded } from '../field/limits'
import { bilinearReader } from './bilinear'
import type { Rows } from './rows'
import { simd } from './simd'

/** A turn with a scale about a place (mx, my) of the result, in texels; `fine` × `fine` places a texel are averaged. */
export interface Placement {
  readonly a: number
  readonly b: number
  readonly c: number
  readonly d: number
  readonly mx: number
  readonly my: number
  readonly fine: number
}

/** result(p) = mean of source(M · (p − m) + middle) over each texel, wrapping. Twin: core/kernels/assembly/transform.ts. */
export function transformField(source: Field, out: Field, rows: Rows, placement: Placement): void {
  const { a, b, c, d, mx, my, fine } = placement
  const { width, height } = source
  const twin = source.stride === 0 ? null : simd()
  if (twin)
    return twin.scratch(() => {
      const planes = source.planes.map((plane) => twin.allRows(source, plane))
      const first = source.rows === height ? 0 : source.top
      const [room, result] = [twin.take(8 * (width + 4)), twin.take(width)]
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const row = floorMod(y, height)
        planes.forEach((plane, p) => {
          twin.assembly.transformRow(
            plane,
            width,
            height,
            first,
            source.rows,
            row,
            a,
            b,
            c,
            d,
            mx,
            my,
            fine,
            room,
            result,
          )
          twin.copyOut(result, out, out.planes[p]!, y, y + 1)
        })
      }
    })
  const readers = source.planes.map((plane) => bilinearReader(source, plane))
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(out, y)
    // Counted from the top of the raster, so that bands across the border agree to the bit.
    const row = floorMod(y, height)
    for (let x = 0; x < width; x++)
      out.planes.forEach((plane, p) => {
        let sum = 0
        for (let j = 0; j < fine; j++)
          for (let i = 0; i < fine; i++) {
            const px = x + (i + 0.5) / fine - mx
            const py = row + (j + 0.5) / fine - my
            sum += readers[p]!(a * px + b * py + width / 2 - 0.5, c * px + d * py + height / 2 - 0.5)
          }
        plane[start + x] = bounded(sum / (fine * fine))
      })
  }
}
