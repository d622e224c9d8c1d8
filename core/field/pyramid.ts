import { decodeSrgb, linearOfBytes } from '../colour/srgb'
import type { Allocate } from './field'
import { plainMemory } from './field'

/**
 * A decoded image as readers hand it over.
 * Shape: `channels` (1 grey, 2 grey and alpha, 3 colour, 4 colour and alpha) interleaved values a texel, top row first.
 * Units: 0–1 for integer files; float files keep their values, which are linear.
 */
export interface RasterImage {
  readonly width: number
  readonly height: number
  readonly channels: 1 | 2 | 3 | 4
  readonly values: Float32Array
  /** Bits a channel of the file; 16 and 32 may also be floats. */
  readonly bits: 8 | 16 | 32
  readonly float: boolean
}

/** Which image, and how its numbers are meant. */
export interface ImageRequest {
  readonly image: string
  /** True: colour is sRGB-encoded and is made linear (integer files only; floats are linear already). */
  readonly encoded: boolean
  /** True: colour has been multiplied by alpha already. */
  readonly premultiplied: boolean
}

/** A request as one word, for maps and content keys. */
export const imageKey = (request: ImageRequest): string =>
  `${request.image}|${request.encoded ? 'srgb' : 'raw'}|${request.premultiplied ? 'premultiplied' : 'straight'}`

/** Makes linear where asked, multiplies by alpha, and halves down to one texel. */
export function makePyramid(image: RasterImage, request: ImageRequest, allocate: Allocate = plainMemory): ImagePyramid {
  const { width, height, channels, values } = image
  const texels = floatsOf(allocate(width * height * 16))
  const grey = channels < 3
  const hasAlpha = channels === 2 || channels === 4
  const decode = request.encoded && !image.float
  const table = decode && image.bits === 8 ? linearOfBytes() : null
  const linear = (v: number): number => (table ? table[Math.round(v * 255)]! : decode ? decodeSrgb(v) : v)
  for (let i = 0; i < width * height; i++) {
    const from = i * channels
    const alpha = hasAlpha ? values[from + channels - 1]! : 1
    for (let c = 0; c < 3; c++) {
      const v = linear(values[from + (grey ? 0 : c)]!)
      texels[i * 4 + c] = request.premultiplied ? v : v * alpha
    }
    texels[i * 4 + 3] = alpha
  }
  return buildPyramid({ width, height, texels }, allocate)
}

/**
 * An image with its mip levels.
 * Shape: level k is ⌈width/2ᵏ⌉ × ⌈height/2ᵏ⌉, rows top to bottom, four float32 a texel.
 * Units: red, green, blue multiplied by alpha, and alpha; linear light where the request said encoded, else raw.
 */
export interface ImagePyramid {
  readonly levels: readonly PyramidLevel[]
}

export interface PyramidLevel {
  readonly width: number
  readonly height: number
  readonly texels: Float32Array
}

/** The texels of all levels. */
export const pyramidPlanes = ({ levels }: ImagePyramid): Float32Array[] => levels.map(({ texels }) => texels)

/** Halves each level by a 2×2 box (odd edges repeat), down to one texel. `base` is level 0, premultiplied. */
export function buildPyramid(base: PyramidLevel, allocate: Allocate = plainMemory): ImagePyramid {
  const levels = [base]
  let level = base
  while (level.width > 1 || level.height > 1) {
    level = halve(level, allocate)
    levels.push(level)
  }
  return { levels }
}

function halve({ width, height, texels }: PyramidLevel, allocate: Allocate): PyramidLevel {
  const w = Math.ceil(width / 2)
  const h = Math.ceil(height / 2)
  const out = floatsOf(allocate(w * h * 16))
  for (let y = 0; y < h; y++) {
    const row0 = 2 * y * width
    const row1 = Math.min(2 * y + 1, height - 1) * width
    for (let x = 0; x < w; x++) {
      const x0 = 2 * x
      const x1 = Math.min(2 * x + 1, width - 1)
      for (let c = 0; c < 4; c++)
        out[(y * w + x) * 4 + c] =
          0.25 *
          (texels[(row0 + x0) * 4 + c]! +
            texels[(row0 + x1) * 4 + c]! +
            texels[(row1 + x0) * 4 + c]! +
            texels[(row1 + x1) * 4 + c]!)
    }
  }
  return { width: w, height: h, texels: out }
}

const floatsOf = ({ buffer, byteOffset, byteLength }: Uint8Array): Float32Array =>
  new Float32Array(buffer, byteOffset, byteLength / 4)
