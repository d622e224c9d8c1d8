import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Baker } from '../mesh/baker'
import type { ByteWriter } from './bytes/byte-writer'
import { quantise } from './bytes/quantise'
import { startExr } from './formats/exr'
import { startPng } from './formats/png'

/** What are numbers with units goes out as float32, the rest as 16-bit PNG. */
export const meshDataFileEnding = ({ shown, type }: Baker): 'exr' | 'png' =>
  shown || type === 'vector' || type === 'id' ? 'exr' : 'png'

/** Writes mesh data as a file of that ending; normals about the middle of their range, as PNG has them. */
export function writeMeshData(baker: Baker, field: Field, output: ByteWriter): void {
  const { width, height, planes } = field
  const channels = planes.length as 1 | 3
  const values = new Float32Array(width * height * channels)
  planes.forEach((plane, p) => {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) values[(y * width + x) * channels + p] = plane[rowStart(field, y) + x]!
  })
  if (meshDataFileEnding(baker) === 'exr') {
    const names = channels === 1 ? ['Y'] : ['R', 'G', 'B']
    const exr = startExr({ width, height, channels: names, pixel: 'float' }, output)
    exr.rows(values)
    exr.end()
    return
  }
  const png = startPng({ width, height, channels, bits: 16, srgb: false }, output)
  const stored = baker.type === 'normal' ? values.map((v) => v * 0.5 + 0.5) : values
  png.rows(quantise(stored, { bits: 16, channels, width, top: 0, dither: false }))
  png.end()
}
