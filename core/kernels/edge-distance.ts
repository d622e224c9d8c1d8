import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { markAbove, nearestMarked } from './distance-transform'

/**
 * Distance to the edge of what reaches `level` in a grey field: from outside it, or from inside.
 * Shape: width × height, row-major, whatever band the field is wanted for. Units: tile; 0 on the other side.
 * The edge is placed between texels by the value and slope of the nearest one across it, so that distances move smoothly
 * and agree between sizes. Source of that: S. Gustavson, R. Strand, "Anti-aliased Euclidean Distance Transform", Pattern
 * Recognition Letters 32 (2011), section 3, with the distance to the edge as (value − level)/slope.
 */
export function edgeDistance(
  source: Field,
  level: number,
  side: 'outside' | 'inside',
  check: () => void,
): Float32Array {
  const { width, height } = source
  const plane = source.planes[0]!
  const marked = markAbove((y) => rowStart(source, y), plane, width, height, level, side === 'inside')
  const far = Math.sqrt(width * width + height * height) / 2
  const out = new Float32Array(width * height)
  /** How far beyond its centre a marked texel's edge lies, in texels. */
  const past = (x: number, y: number): number => {
    const row = rowStart(source, y)
    const across = plane[row + floorMod(x + 1, width)]! - plane[row + floorMod(x - 1, width)]!
    const down = plane[rowStart(source, y + 1) + x]! - plane[rowStart(source, y - 1) + x]!
    const slope = Math.sqrt(across * across + down * down) / 2
    const over = Math.abs(plane[row + x]! - level)
    return over >= slope / 2 ? 0.5 : over / slope
  }
  nearestMarked(marked, width, height, check, (x, y, dx, dy) => {
    const i = y * width + x
    if (dx === 0 && dy === 0) return
    if (dx !== dx) out[i] = far / width
    else
      out[i] =
        Math.max(0, Math.sqrt(dx * dx + dy * dy) - past(floorMod(x + dx, width), floorMod(y + dy, height))) / width
  })
  return out
}
