import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { nearestCrossings } from './distance-transform'
import type { Rows } from './rows'

/**
 * A colour grown outward: what is less opaque than `level` takes the colour of the nearest texel, over the borders of the tile, that is
 * not; where none is, it stays. Shape: whole fields. Source: kernels/distance-transform.ts (the nearest texel, exactly).
 */
export function bleedColour(source: Field, opacity: Field, out: Field, level: number, rows: Rows): void {
  const { width, height } = out
  // A texel that is opaque is a crossing of its column right at its centre.
  const known = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    const from = rowStart(opacity, y)
    for (let x = 0; x < width; x++) known[y * width + x] = opacity.planes[0]![from + x]! < level ? NaN : 0
  }
  const { across, down } = nearestCrossings(known, width, height, rows.check)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const to = rowStart(out, y)
    for (let x = 0; x < width; x++) {
      const row = ((y % height) + height) % height
      const away = across[row * width + x]!
      const column = (((x + away) % width) + width) % width
      const way = down[row * width + column]!
      // No texel is opaque: there is no way to any.
      const found = way === way ? (((row + Math.round(way)) % height) + height) % height : -1
      const from = found < 0 ? rowStart(source, y) + x : rowStart(source, found) + column
      for (let p = 0; p < out.planes.length; p++) out.planes[p]![to + x] = source.planes[p]![from]!
    }
  }
}
