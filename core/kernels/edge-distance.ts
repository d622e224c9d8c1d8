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
  /** How far the edge lies from a texel's centre by its own value and slope, in texels; half a texel at most. */
  const past = (x: number, y: number): number => {
    const row = rowStart(source, y)
    const here = plane[row + x]!
    const across = steeper(here, plane[row + floorMod(x - 1, width)]!, plane[row + floorMod(x + 1, width)]!)
    const down = steeper(here, plane[rowStart(source, y - 1) + x]!, plane[rowStart(source, y + 1) + x]!)
    const slope = Math.sqrt(across * across + down * down)
    const over = Math.abs(here - level)
    return over >= slope / 2 ? 0.5 : over / slope
  }
  const offsets = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    check()
    for (let x = 0; x < width; x++) offsets[y * width + x] = past(x, y)
  }
  nearestMarked(marked, width, height, check, (x, y, dx, dy) => {
    const i = y * width + x
    if (dx === 0 && dy === 0) return
    if (dx !== dx) {
      out[i] = far / width
      return
    }
    // Right beside the edge a texel's own value says more than a neighbour that may lie along it.
    if (dx * dx + dy * dy < 2.25 && offsets[i]! < 0.5) {
      out[i] = offsets[i]! / width
      return
    }
    // Of the nearest texel and those around it the one whose edge is nearest counts.
    let least = Infinity
    for (let v = dy - 1; v <= dy + 1; v++)
      for (let u = dx - 1; u <= dx + 1; u++) {
        const seed = floorMod(y + v, height) * width + floorMod(x + u, width)
        if (!marked[seed]) continue
        const texels = Math.sqrt(u * u + v * v) - offsets[seed]!
        if (texels < least) least = texels
      }
    out[i] = Math.max(0, least) / width
  })
  return out
}

/** The steeper of the slopes to both sides: an edge is often but one texel wide. */
function steeper(here: number, before: number, after: number): number {
  return Math.max(Math.abs(here - before), Math.abs(after - here))
}
