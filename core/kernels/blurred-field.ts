import type { Allocate, Field } from '../field/field'
import { createField, plainMemory, rowStart } from '../field/field'
import { blurPlane } from './blur'
import type { Rows } from './rows'
import { variedBlur } from './varied-blur'

/**
 * A Gaussian blur of a grey field over some rows, as a field of its own; where `driver` is given its σ is that share of the largest one
 * from texel to texel. Units: `sigma` in texels.
 */
export function blurredField(
  source: Field,
  sigma: number,
  driver: Field | null,
  rows: Rows,
  allocate: Allocate = plainMemory,
): Field {
  const { width, height } = source
  const plane = source.planes[0]!
  const out = createField('grey', width, height, { top: rows.from, rows: rows.to - rows.from }, allocate)
  const target = out.planes[0]!
  if (driver) variedBlur(source, plane, 'gaussian', sigma, driver, rows, out, target)
  else blurPlane(source, plane, { kind: 'gaussian', sigma }, rows, (y, row) => target.set(row, (y - rows.from) * width))
  return out
}

/** Where a row of such a field begins: counted, as a field as high as the raster would wrap. */
export const blurredRow = (field: Field, y: number): number =>
  field.rows === field.height ? rowStart(field, y) : (y - field.top) * field.width
