import { countBytes } from '../colour/count-colour'
import { encodeSrgb } from '../colour/srgb'
import type { Field } from '../field/field'
import { createField, rowStart } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import type { RasterShape } from '../field/raster'
import { valuesOfRaster } from '../field/raster'
import type { MeshDataKind } from '../graph/mesh-data-kinds'
import { MESH_DATA_KINDS } from '../graph/mesh-data-kinds'
import type { Baker, ShownScale } from './baker'

/*
 * Mesh data as they are kept, and as eyes see them. Kept: what lies within 0–1 and normals in 16 bits, numbers of parts as 16-bit steps,
 * numbers with units as float32. Texels interleaved, top row first.
 */

const inSteps = ({ type, shown }: Baker): boolean => shown === undefined && type !== 'vector'

/** How a kind is kept at a size. */
export const meshDataShape = (baker: Baker, width: number, height: number): RasterShape => ({
  width,
  height,
  channels: planesOf(baker),
  bits: inSteps(baker) ? 16 : 32,
  float: !inSteps(baker),
})

const planesOf = ({ type }: Baker): 1 | 3 => (type === 'normal' || type === 'vector' ? 3 : 1)

/** A field of mesh data as bytes, little-endian. */
export function meshDataBytes(baker: Baker, field: Field): Uint8Array {
  const { width, height, planes } = field
  const count = planes.length
  const steps = inSteps(baker)
  const out = steps ? new Uint16Array(width * height * count) : new Float32Array(width * height * count)
  planes.forEach((plane, p) => {
    for (let y = 0; y < height; y++) {
      const row = rowStart(field, y)
      for (let x = 0; x < width; x++)
        out[(y * width + x) * count + p] = steps ? stepOf(baker, plane[row + x]!) : plane[row + x]!
    }
  })
  return new Uint8Array(out.buffer)
}

function stepOf({ type }: Baker, value: number): number {
  if (type === 'id') return Math.min(65535, value)
  const share = type === 'normal' ? value * 0.5 + 0.5 : value
  return Math.round(Math.min(1, Math.max(0, share)) * 65535)
}

/** The field of meshDataBytes again. */
export function meshDataField(baker: Baker, { width, height }: RasterShape, bytes: Uint8Array): Field {
  const own = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice()
  const steps = inSteps(baker)
  const values = steps
    ? new Uint16Array(own.buffer, own.byteOffset, own.byteLength / 2)
    : new Float32Array(own.buffer, own.byteOffset, own.byteLength / 4)
  const type = baker.type === 'id' ? 'grey' : baker.type === 'vector' ? 'colour' : baker.type
  const field = createField(type, width, height)
  const count = field.planes.length
  field.planes.forEach((plane, p) => {
    for (let y = 0; y < height; y++) {
      const row = rowStart(field, y)
      for (let x = 0; x < width; x++) {
        const value = values[(y * width + x) * count + p]!
        plane[row + x] =
          !steps || baker.type === 'id' ? value : baker.type === 'normal' ? (value / 65535) * 2 - 1 : value / 65535
      }
    }
  })
  return field
}

/** Mesh data as an image that nodes read: their own numbers, whatever they are kept as. */
export function imageOfMeshData(kind: MeshDataKind, shape: RasterShape, bytes: Uint8Array): RasterImage {
  const values = valuesOfRaster(bytes, shape)
  const type = MESH_DATA_KINDS[kind]
  if (!shape.float && type === 'normal') for (let i = 0; i < values.length; i++) values[i] = values[i]! * 2 - 1
  if (!shape.float && type === 'id') for (let i = 0; i < values.length; i++) values[i] = Math.round(values[i]! * 65535)
  return { ...shape, bits: 32, float: true, values }
}

/**
 * Mesh data as a picture, RGB bytes: normals about mid-grey, numbers against their scale, colours encoded, numbers of parts in colours of
 * their own that tell neighbours apart; 0 is black.
 */
export function meshDataPicture(baker: Baker, field: Field, scale: ShownScale): Uint8Array {
  const { width, height, planes } = field
  const out = new Uint8Array(width * height * 3)
  const byte = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * 255)
  for (let y = 0; y < height; y++) {
    const row = rowStart(field, y)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 3
      if (baker.type === 'id') {
        out.set(countBytes(planes[0]![row + x]!), at)
        continue
      }
      for (let k = 0; k < 3; k++) {
        const value = planes[Math.min(k, planes.length - 1)]![row + x]!
        const shown = baker.shown
          ? baker.shown(value, k, scale)
          : baker.type === 'normal'
            ? value * 0.5 + 0.5
            : baker.type === 'vector'
              ? encodeSrgb(Math.min(1, Math.max(0, value)))
              : value
        out[at + k] = byte(shown)
      }
    }
  }
  return out
}
