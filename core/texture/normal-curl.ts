/** Values of normals, a plane a component, row by row; `rows` rows of `width` texels. */
export interface NormalRows {
  readonly width: number
  readonly rows: number
  readonly planes: readonly [Float32Array, Float32Array, Float32Array]
  /** Index at which a row begins; rows that lie in order where it is absent. */
  readonly rowStart?: (row: number) => number
}

/** By how much a reading must be nearer to a real surface than the other. Own choice. */
const FACTOR = 2

/**
 * Mean square of the curl of the slopes, with green read up and read down. A surface's slopes have none: ∂²h/∂u∂v = ∂²h/∂v∂u (Schwarz);
 * R. Frankot, R. Chellappa 1988 call such a field integrable. `repeats`: the last texel borders on the first.
 */
export function curls({ width, rows, planes, rowStart }: NormalRows, repeats: boolean): { up: number; down: number } {
  const [nx, ny, nz] = planes
  const edge = repeats ? 0 : 1
  const begin = rowStart ?? ((row: number) => row * width)
  const slope = (plane: Float32Array, sign: number, x: number, y: number): number => {
    const i = begin((y + rows) % rows) + ((x + width) % width)
    return (sign * plane[i]!) / Math.max(0.05, nz[i]!)
  }
  let [up, down] = [0, 0]
  for (let y = edge; y < rows - edge; y++)
    for (let x = edge; x < width - edge; x++) {
      // ∂h/∂u = −nx/nz; ∂h/∂v = ny/nz with v down and +Y up.
      const across = slope(nx, -1, x, y + 1) - slope(nx, -1, x, y - 1)
      const along = slope(ny, 1, x + 1, y) - slope(ny, 1, x - 1, y)
      up += (across - along) * (across - along)
      down += (across + along) * (across + along)
    }
  const texels = Math.max(1, (width - 2 * edge) * (rows - 2 * edge))
  return { up: up / texels, down: down / texels }
}

/** Which way green points by curls; null where neither reading is much nearer to a surface. */
export function greenOf({ up, down }: { up: number; down: number }): 'up' | 'down' | null {
  if (up > FACTOR * down && up >= 1e-9) return 'down'
  return down > FACTOR * up && down >= 1e-9 ? 'up' : null
}
