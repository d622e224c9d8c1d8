import { GristError } from '../errors'
import { LIMITS } from '../limits'

/** What a port carries; see NODES in docs/FORMAT.md. */
export type PortType = 'grey' | 'colour' | 'normal' | 'vector' | 'id'

/**
 * A raster, or a band of its rows.
 *
 * Shape: `planes` hold `rows` rows of `width` float32 values, row-major, row 0 the picture's top, texel centres at
 * ((i+½)/width, (j+½)/height); `counts` takes their place for the type count. `height` is the height of the whole
 * raster. A band starts at row `top`, which may be negative or beyond the height: rows are read modulo the height, as
 * tiles wrap. `stride` is the step from row to row: `width`, or 0 where one row stands for all (a uniform field).
 * Units: grey nominally 0–1, never clipped; colour linear light, sRGB primaries; normal −1…1, +Y up; vector tile units.
 */
export interface Field {
  readonly type: PortType
  readonly width: number
  readonly height: number
  readonly top: number
  readonly rows: number
  readonly stride: number
  readonly planes: readonly Float32Array[]
  readonly ids: Uint32Array | null
}

/** Where the bytes of fields come from: a heap that threads share, or memory of their own. Not cleared. */
export type Allocate = (bytes: number) => Uint8Array

export const plainMemory: Allocate = (bytes) => new Uint8Array(bytes)

const PLANES: Record<PortType, number> = { grey: 1, colour: 3, normal: 3, vector: 2, id: 1 }

/** How many planes of 4-byte values a type has. */
export const planeCount = (type: PortType): number => PLANES[type]

/** Bytes a field of `rows` rows takes. */
export const fieldBytes = (type: PortType, width: number, rows: number): number => PLANES[type] * width * rows * 4

/** A field of zeros (or of whatever the allocator's memory held). `band` defaults to the whole raster. */
export function createField(
  type: PortType,
  width: number,
  height: number,
  band: { top: number; rows: number } = { top: 0, rows: height },
  allocate: Allocate = plainMemory,
): Field {
  const count = width * band.rows
  const region = (): readonly [ArrayBufferLike, number, number] => {
    const { buffer, byteOffset } = allocate(count * 4)
    return [buffer, byteOffset, count]
  }
  return {
    type,
    width,
    height,
    top: band.top,
    rows: band.rows,
    stride: width,
    planes: type === 'id' ? [] : Array.from({ length: PLANES[type] }, () => new Float32Array(...region())),
    ids: type === 'id' ? new Uint32Array(...region()) : null,
  }
}

/** A field with one value a plane everywhere; takes the memory of one row. */
export function uniformField(type: PortType, width: number, height: number, values: readonly number[]): Field {
  return {
    type,
    width,
    height,
    top: 0,
    rows: height,
    stride: 0,
    planes:
      type === 'id'
        ? []
        : Array.from({ length: PLANES[type] }, (_, p) => new Float32Array(width).fill(values[p] ?? values[0] ?? 0)),
    ids: type === 'id' ? new Uint32Array(width).fill(values[0] ?? 0) : null,
  }
}

/** The remainder that is never negative. */
export const floorMod = (a: number, n: number): number => ((a % n) + n) % n

/** Index of the first texel of row `y` in a field's planes. A whole field wraps; a band must hold the row. */
export function rowStart(field: Field, y: number): number {
  if (field.stride === 0) return 0
  let row = y - field.top
  if (field.rows === field.height) row = floorMod(row, field.height)
  else if (row < 0 || row >= field.rows)
    throw new RangeError(`row ${y} outside the band ${field.top}…${field.top + field.rows} of ${field.height}`)
  return row * field.stride
}

/** All planes, in order; counts take their place for the type id. */
export function fieldPlanes(field: Field): readonly (Float32Array | Uint32Array)[] {
  return field.ids ? [field.ids] : field.planes
}

/** Copies rows from ≤ y < to of a field to the rows of another that lie `shift` further down. */
export function copyRows(source: Field, target: Field, from: number, to: number, shift = 0): void {
  for (let y = from; y < to; y++) {
    const [a, b] = [rowStart(source, y), rowStart(target, y + shift)]
    source.planes.forEach((plane, p) => target.planes[p]!.set(plane.subarray(a, a + source.width), b))
    if (source.ids) target.ids!.set(source.ids.subarray(a, a + source.width), b)
  }
}

/** A whole copy with every row present (uniform and band fields are written out). Throws RangeError on missing rows. */
export function cropField(field: Field, x: number, y: number, width: number, rows: number): Field {
  const out = createField(field.type, width, rows)
  for (let row = 0; row < rows; row++) {
    const from = rowStart(field, y + row) + x
    field.planes.forEach((plane, p) => out.planes[p]!.set(plane.subarray(from, from + width), row * width))
    if (field.ids) out.ids!.set(field.ids.subarray(from, from + width), row * width)
  }
  return out
}

/**
 * Texels of a tile: square, so that the height is width · metres[1] / metres[0].
 * Throws size-invalid where that is no whole number, or the width is outside 1–16384.
 */
export function tileSize(width: number, metres: readonly [number, number]): { width: number; height: number } {
  const height = (width * metres[1]) / metres[0]
  const rounded = Math.round(height)
  if (!Number.isInteger(width) || width < 1 || width > LIMITS.side)
    throw new GristError(
      'size-invalid',
      `Expected a whole width from 1 to ${LIMITS.side} texels but received ${width}.`,
    )
  if (Math.abs(height - rounded) > 1e-6 * height || rounded < 1 || rounded > LIMITS.side)
    throw new GristError(
      'size-invalid',
      `Expected a width at which the height is whole too: ${width} texels over ${metres[0]} m make ${height} rows over ` +
        `${metres[1]} m. Choose another size, or metres in a simple ratio.`,
    )
  return { width, height: rounded }
}
