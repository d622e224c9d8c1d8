import { countBytes } from '../colour/count-colour'
import { encodedTexel } from '../kernels/srgb'
import type { Simd } from '../kernels/simd'
import { simd } from '../kernels/simd'
import { toHalf } from '../texture/bytes/half'
import type { Field } from '../field/field'
import { createField, rowStart } from '../field/field'
import { ownTexelsOf } from './own-texels'

/** A picture for a canvas or a texture. Shape: RGBA bytes, rows top to bottom unless it says flipped. */
export interface DisplayBytes {
  readonly width: number
  readonly height: number
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
}

/** How a plane's values become bytes: 0–1 as they are, −1…1, or linear light that is sRGB-encoded. */
export type ByteKind = 'value' | 'signed' | 'encoded'

/** A byte of a picture: from a plane, or the same everywhere. */
export type BytePlane = { readonly field: Field; readonly plane: Float32Array; readonly kind: ByteKind } | number

const f = Math.fround

/** Nearest byte of a float32 value, held to 0–255; 0 for what is no number. Also core/kernels/assembly/display.ts. */
function byteOf(value: number, kind: ByteKind): number {
  const v = kind === 'signed' ? f(f(value * 0.5) + 0.5) : kind === 'encoded' ? encodedTexel(value) : value
  const byte = f(f(v * 255) + 0.5)
  return byte >= 255 ? 255 : byte > 0 ? Math.floor(byte) : 0
}

/** Nearest byte of a linear value in 0–1, sRGB-encoded. Source: IEC 61966-2-1. */
export const encodedByte = (linear: number): number => byteOf(f(linear), 'encoded')

/** Rows from ≤ y < to of the whole raster. */
export interface PictureRows {
  readonly from: number
  readonly to: number
}

/** The channels of a picture. */
type RgbaPlanes = readonly [BytePlane, BytePlane, BytePlane, BytePlane]

/** Room for a picture of fields: of their size, or of one texel where all are uniform. */
export function rgbaPicture(fields: readonly Field[]): DisplayBytes {
  const { width, height } = fields.find(({ stride }) => stride !== 0) ?? { width: 1, height: 1 }
  return { width, height, pixels: new Uint8ClampedArray(width * height * 4) }
}

/**
 * Fills rows of a picture of red, green, blue and alpha. Its size is that of the fields that are not uniform; one texel where all
 * are. `flip` puts the bottom row first, as textures want it.
 */
export function fillRgba(
  { width, height, pixels }: DisplayBytes,
  channels: RgbaPlanes,
  flip: boolean,
  { from, to }: PictureRows,
): void {
  // What is uniform has its byte everywhere.
  const sources = channels.map((channel) =>
    typeof channel !== 'number' && channel.field.stride === 0 ? byteOf(channel.plane[0]!, channel.kind) : channel,
  )
  const rowAt = (y: number): number => (flip ? height - 1 - y : y) * width * 4
  const end = Math.min(to, height)
  const twin = width * height > 1 && width % 4 === 0 ? simd() : null
  if (twin) return fillByTwin(twin, sources, width, { from, to: end }, rowAt, pixels)
  sources.forEach((source, c) => {
    for (let y = from; y < end; y++) {
      let at = rowAt(y) + c
      const start = typeof source === 'number' ? 0 : rowStart(source.field, y)
      for (let x = 0; x < width; x++, at += 4)
        pixels[at] = typeof source === 'number' ? source : byteOf(source.plane[start + x]!, source.kind)
    }
  })
}

/** The whole of such a picture. */
export function rgbaBytes(channels: RgbaPlanes, flip: boolean): DisplayBytes {
  const picture = rgbaPicture(channels.flatMap((channel) => (typeof channel === 'number' ? [] : [channel.field])))
  fillRgba(picture, channels, flip, { from: 0, to: picture.height })
  return picture
}

const KINDS: Readonly<Record<ByteKind, number>> = { value: 0, signed: 1, encoded: 2 }

function fillByTwin(
  twin: Simd,
  sources: readonly BytePlane[],
  width: number,
  { from, to }: PictureRows,
  rowAt: (y: number) => number,
  pixels: Uint8ClampedArray,
): void {
  const bytesOf = (of: (source: BytePlane) => number, bits: number): number =>
    sources.reduce<number>((sum, source, c) => sum | (of(source) << (bits * c)), 0)
  const constants = bytesOf((source) => (typeof source === 'number' ? source : 0), 8)
  const kinds = bytesOf((source) => (typeof source === 'number' ? 0 : KINDS[source.kind]), 2)
  twin.scratch(() => {
    const rooms = sources.map(() => twin.take(width))
    const out = twin.take(width)
    const row = twin.bytes(out, width * 4)
    for (let y = from; y < to; y++) {
      const at = sources.map((source, c) =>
        typeof source === 'number' ? 0 : twin.rowsOf(source.field, source.plane, y, y + 1, rooms[c]!),
      )
      twin.assembly.rgbaRow(at[0]!, at[1]!, at[2]!, at[3]!, out, width, kinds, constants)
      pixels.set(row, rowAt(y))
    }
  })
}

/** A picture of half floats. */
export interface HalfFloats {
  readonly width: number
  readonly height: number
  readonly pixels: Uint16Array<ArrayBuffer>
}

/** Room for a plane as half floats; of one texel for a uniform one. */
export function halvesPicture(field: Field): HalfFloats {
  const { width, height } = field.stride === 0 ? { width: 1, height: 1 } : field
  return { width, height, pixels: new Uint16Array(width * height) }
}

/** Fills rows of a field's first plane as half floats, turned as textures want them. */
export function fillHalves(
  { width, height, pixels }: HalfFloats,
  field: Field,
  flip: boolean,
  { from, to }: PictureRows,
): void {
  const plane = field.planes[0]!
  const end = Math.min(to, height)
  const twin = width % 4 === 0 ? simd() : null
  const rowOf = (y: number): number => (flip ? height - 1 - y : y) * width
  if (twin)
    twin.scratch(() => {
      const [room, out] = [twin.take(width), twin.take(width)]
      const row = new Uint16Array(twin.shared.buffer, out, width)
      for (let y = from; y < end; y++) {
        twin.assembly.halvesRow(twin.rowsOf(field, plane, y, y + 1, room), out, width)
        pixels.set(row, rowOf(y))
      }
    })
  else
    for (let y = from; y < end; y++) {
      const start = rowStart(field, y)
      for (let x = 0; x < width; x++) pixels[rowOf(y) + x] = toHalf(plane[start + x]!)
    }
}

/**
 * What a field looks like: colours sRGB-encoded, grey as it is, directions from −1…1 to 0…255, counts as a colour each.
 * A uniform field gives one texel. `flip` puts the bottom row first, as textures want it.
 */
export function displayBytes(field: Field, flip = false): DisplayBytes {
  const picture = rgbaPicture([field])
  fillDisplay(picture, field, flip, { from: 0, to: picture.height })
  return picture
}

/** The same for some rows of a picture of the field's size (rgbaPicture). */
export function fillDisplay(picture: DisplayBytes, field: Field, flip: boolean, rows: PictureRows): void {
  if (field.ids) return fillCounts(picture, field, field.ids, flip, rows)
  const kind = kindOf(field)
  const of = (p: number): BytePlane => ({ field, plane: field.planes[p]!, kind })
  const { type } = field
  const channels: RgbaPlanes =
    type === 'grey' ? [of(0), of(0), of(0), 255] : [of(0), of(1), type === 'vector' ? 128 : of(2), 255]
  fillRgba(picture, channels, flip, rows)
}

/** How a field's planes are shown. */
export const kindOf = ({ type }: Field): ByteKind =>
  type === 'colour' ? 'encoded' : type === 'normal' || type === 'vector' ? 'signed' : 'value'

function fillCounts(
  { width, height, pixels }: DisplayBytes,
  field: Field,
  ids: Uint32Array,
  flip: boolean,
  { from, to }: PictureRows,
): void {
  for (let y = from; y < Math.min(to, height); y++) {
    const start = rowStart(field, y)
    let at = (flip ? height - 1 - y : y) * width * 4
    for (let x = 0; x < width; x++, at += 4) {
      const [r, g, b] = countBytes(ids[start + x]!)
      pixels[at] = r
      pixels[at + 1] = g
      pixels[at + 2] = b
      pixels[at + 3] = 255
    }
  }
}

/**
 * A small copy whose longer side is at most `side` texels: means over whole boxes, counts by their first texel.
 * Fields that are small already, and uniform ones, stay as they are (a uniform one as one row).
 */
export function reduceField(field: Field, side: number): Field {
  const by = Math.floor(Math.max(field.width, field.height) / side)
  if (by <= 1 || field.stride === 0) return field
  const width = Math.floor(field.width / by)
  const height = Math.floor(field.height / by)
  const out = createField(field.type, width, height)
  if (field.ids)
    for (let y = 0; y < height; y++) {
      const start = rowStart(field, y * by)
      for (let x = 0; x < width; x++) out.ids![y * width + x] = field.ids[start + x * by]!
    }
  field.planes.forEach((plane, p) => reducePlane(field, plane, by, out.planes[p]!, width, height))
  return out
}

/** Row by row as memory lies: 8 times as fast as box by box (256² to 64², Node 20). */
function reducePlane(
  field: Field,
  plane: Float32Array,
  by: number,
  target: Float32Array,
  width: number,
  height: number,
): void {
  const weight = 1 / (by * by)
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const [room, at] = [twin.take(field.width), twin.take(2 * width)]
      const sums = new Float64Array(twin.shared.buffer, at, width)
      for (let y = 0; y < height; y++) {
        sums.fill(0)
        for (let j = 0; j < by; j++)
          twin.assembly.addBoxes(twin.rowsOf(field, plane, y * by + j, y * by + j + 1, room), at, width, by)
        for (let x = 0; x < width; x++) target[y * width + x] = sums[x]! * weight
      }
    })
  const sums = new Float64Array(width)
  for (let y = 0; y < height; y++) {
    sums.fill(0)
    for (let j = 0; j < by; j++) {
      let at = rowStart(field, y * by + j)
      for (let x = 0; x < width; x++) {
        let sum = 0
        for (let i = 0; i < by; i++) sum += plane[at++]!
        sums[x] = sums[x]! + sum
      }
    }
    for (let x = 0; x < width; x++) target[y * width + x] = sums[x]! * weight
  }
}

/** Value of every plane at u, v in tiles (wrapping), the texel that holds it. Counts give one number. */
export function valuesAt(field: Field, u: number, v: number): number[] {
  const x = Math.min(field.width - 1, Math.floor((u - Math.floor(u)) * field.width))
  const y = Math.min(field.height - 1, Math.floor((v - Math.floor(v)) * field.height))
  const at = rowStart(field, y) + x
  return field.ids ? [field.ids[at]!] : field.planes.map((plane) => plane[at]!)
}

/**
 * Linear mean of a colour field, weighted by a mask of the same size where there is one, on a part over its own texels (ownTexelsOf);
 * null where all is masked out.
 */
export function weightedMean(
  field: Field,
  mask: Field | null,
  nearest: Int32Array | null = null,
): [number, number, number] | null {
  const own = ownTexelsOf(field, nearest)
  const [r, g = r, b = r] = field.planes
  let red = 0
  let green = 0
  let blue = 0
  let weight = 0
  let count = 0
  for (let y = 0; y < field.height; y++) {
    const start = rowStart(field, y)
    for (let x = 0; x < field.width; x++) {
      if (own && own[y * field.width + x] !== y * field.width + x) continue
      count++
      const w = mask ? Math.min(1, Math.max(0, mask.planes[0]![rowStart(mask, y) + x]!)) : 1
      weight += w
      red += w * r![start + x]!
      green += w * g![start + x]!
      blue += w * b![start + x]!
    }
  }
  return weight > 1e-6 * count ? [red / weight, green / weight, blue / weight] : null
}
