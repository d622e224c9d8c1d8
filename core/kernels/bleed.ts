import type { ImagePyramid } from '../field/pyramid'
import type { ImageAt } from './image-sampling'
import { imageReader } from './image-sampling'

/** Below this alpha a level knows no colour worth taking. */
const LEAST = 1 / 512

/**
 * Reads an image's straight colour and alpha. Where it is transparent the colour is that of the nearest coarser level
 * that knows one: colours grow outward under the alpha, so that mips, filters and packers find no dark fringe.
 * Range: colour 0 where the whole image is transparent. Source: the pull step of S. Gortler et al., "The Lumigraph",
 * SIGGRAPH 1996, section 3.5, on the premultiplied pyramid.
 */
export function bledReader(pyramid: ImagePyramid, footprint: readonly [number, number]): ImageAt {
  const first = imageReader(pyramid, 'clamp', footprint)
  const coarser = pyramid.levels
    .slice(1)
    .map(({ width, height }) => imageReader(pyramid, 'clamp', [1 / width, 1 / height]))
  const part = new Float64Array(4)
  return (u, v, texel) => {
    first(u, v, texel)
    const alpha = texel[3]!
    let level = 0
    part.set(texel)
    while (part[3]! < LEAST && level < coarser.length) coarser[level++]!(u, v, part)
    for (let c = 0; c < 3; c++) texel[c] = part[3]! > 0 ? part[c]! / part[3]! : 0
    texel[3] = alpha
  }
}
