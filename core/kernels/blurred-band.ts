import type { Field } from '../field/field'
import { createField } from '../field/field'
import { blurPlane } from './blur'
import type { Rows } from './rows'

/**
 * A blurred copy of one plane as a grey band with `more` rows above and below the rows asked for, for kernels that read
 * neighbours of what is blurred. Units: `sigma` in texels.
 */
export function blurredBand(source: Field, plane: Float32Array, sigma: number, rows: Rows, more: number): Field {
  const { width, height } = source
  const band = { top: rows.from - more, rows: rows.to - rows.from + 2 * more }
  const out = createField('grey', width, height, band)
  const wide: Rows = { from: band.top, to: band.top + band.rows, check: rows.check }
  // Counted, not by rowStart: a band as high as the raster would wrap.
  blurPlane(source, plane, { kind: 'gaussian', sigma }, wide, (y, row) =>
    out.planes[0]!.set(row, (y - band.top) * width),
  )
  return out
}
