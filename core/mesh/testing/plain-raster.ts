import type { TexelSamples } from '../raster'
import { TileRaster } from '../raster'

/** Numbers a triangle that tell how its weights grow. */
const LINEAR = 6

/** The definition of what TileRaster draws, as plainly as it can be written. */
export class PlainRaster extends TileRaster {
  private readonly count = this.pattern.length / 2

  /**
   * Samples of rows `from` to `to`. Where triangles lie over one another the first in the file counts. A texel that is touched without a
   * sample in it gets one: the surface nearest to its middle.
   */
  override between(from: number, to: number): TexelSamples {
    const { target, count, rows } = this
    const texels = (to - from) * target.width
    const owner = new Int32Array(texels * count).fill(-1)
    /** Whether a texel has any sample. */
    const owned = new Uint8Array(texels)
    const nearest = new Int32Array(texels).fill(-1)
    const distance = new Float64Array(texels)
    for (let t = 0; t < rows.length / 2; t++) {
      const last = Math.min(to - 1, rows[t * 2 + 1]!)
      for (let y = Math.max(from, rows[t * 2]!); y <= last; y++) {
        const start = (y - from) * target.width
        this.own(t, y, start, owner, owned)
        this.touch(t, y, start, owned, nearest, distance)
      }
    }
    return this.collected(from, owner, owned, nearest)
  }

  /** Gives a triangle those samples of a row that lie in it and are nobody's yet. */
  private own(t: number, y: number, start: number, owner: Int32Array, owned: Uint8Array): void {
    const { count, pattern, linear, target } = this
    const at = t * LINEAR
    const [bx, dx] = [linear[at + 1]!, linear[at + 4]!]
    for (let s = 0; s < count; s++) {
      const v = y + pattern[s * 2 + 1]!
      const b = linear[at]! + linear[at + 2]! * v + bx * pattern[s * 2]!
      const d = linear[at + 3]! + linear[at + 5]! * v + dx * pattern[s * 2]!
      // Where all three weights are at least 0, with a texel to spare; the exact test follows.
      let [low, high] = [0, target.width - 1]
      const cut = (constant: number, slope: number): void => {
        if (slope > 0) low = Math.max(low, Math.floor(-constant / slope) - 1)
        else if (slope < 0) high = Math.min(high, Math.ceil(-constant / slope) + 1)
        else if (constant < 0) high = -1
      }
      cut(b, bx)
      cut(d, dx)
      cut(1 - b - d, -bx - dx)
      for (let x = low; x <= high; x++) {
        const [p, q] = [b + bx * x, d + dx * x]
        if (p < 0 || q < 0 || p + q > 1) continue
        const sample = (start + x) * count + s
        if (owner[sample]! < 0) owner[sample] = t
        owned[start + x] = 1
      }
    }
  }

  /** Remembers a triangle for texels of a row that it touches and that have no sample yet, where none is nearer to their middles. */
  private touch(
    t: number,
    y: number,
    start: number,
    owned: Uint8Array,
    nearest: Int32Array,
    distance: Float64Array,
  ): void {
    const c = this.places
    // How far it reaches to both sides between the upper and the lower edge of the row.
    let [left, right] = [Infinity, -Infinity]
    for (let e = 0; e < 6; e += 2) {
      const i = t * 6 + e
      const j = t * 6 + ((e + 2) % 6)
      const [x0, y0, x1, y1] = [c[i]!, c[i + 1]!, c[j]!, c[j + 1]!]
      if (Math.max(y0, y1) < y || Math.min(y0, y1) > y + 1) continue
      for (const edge of [y, y + 1]) {
        const share = y0 === y1 ? 0 : Math.min(1, Math.max(0, (edge - y0) / (y1 - y0)))
        const x = x0 + (x1 - x0) * share
        if (x < left) left = x
        if (x > right) right = x
      }
      if (y0 === y1) [left, right] = [Math.min(left, x1), Math.max(right, x1)]
    }
    const end = Math.min(this.target.width - 1, Math.floor(right))
    for (let x = Math.max(0, Math.floor(left)); x <= end; x++) {
      if (owned[start + x]) continue
      const away = this.nearestPlace(t, x + 0.5, y + 0.5).away
      if (nearest[start + x]! >= 0 && away >= distance[start + x]!) continue
      nearest[start + x] = t
      distance[start + x] = away
    }
  }

  /** The place of a triangle that is nearest to another, and its squared distance. */
  private nearestPlace(t: number, u: number, v: number): { x: number; y: number; away: number } {
    const c = this.places
    let best = { x: u, y: v, away: Infinity }
    for (let e = 0; e < 6; e += 2) {
      const [i, j] = [t * 6 + e, t * 6 + ((e + 2) % 6)]
      const [dx, dy] = [c[j]! - c[i]!, c[j + 1]! - c[i + 1]!]
      const length = dx * dx + dy * dy
      const along = length > 0 ? Math.min(1, Math.max(0, ((u - c[i]!) * dx + (v - c[i + 1]!) * dy) / length)) : 0
      const [x, y] = [c[i]! + along * dx, c[i + 1]! + along * dy]
      const away = (x - u) ** 2 + (y - v) ** 2
      if (away < best.away) best = { x, y, away }
    }
    return best
  }

  private collected(from: number, owner: Int32Array, owned: Uint8Array, nearest: Int32Array): TexelSamples {
    const { count, pattern, target, linear } = this
    let total = 0
    for (const t of owner) if (t >= 0) total++
    owned.forEach((has, texel) => {
      if (!has && nearest[texel]! >= 0) total++
    })
    const texels = new Uint32Array(total)
    const triangles = new Uint32Array(total)
    const weights = new Float32Array(total * 2)
    let n = 0
    const add = (texel: number, t: number, u: number, v: number): void => {
      const at = t * LINEAR
      texels[n] = texel
      triangles[n] = t
      weights[n * 2] = linear[at]! + linear[at + 1]! * u + linear[at + 2]! * v
      weights[n * 2 + 1] = linear[at + 3]! + linear[at + 4]! * u + linear[at + 5]! * v
      n++
    }
    for (let texel = 0; texel < owned.length; texel++) {
      if (!owned[texel] && nearest[texel]! < 0) continue
      const [x, y] = [texel % target.width, from + Math.floor(texel / target.width)]
      if (!owned[texel]) {
        const place = this.nearestPlace(nearest[texel]!, x + 0.5, y + 0.5)
        add(texel, nearest[texel]!, place.x, place.y)
        continue
      }
      for (let s = 0; s < count; s++) {
        const t = owner[texel * count + s]!
        if (t >= 0) add(texel, t, x + pattern[s * 2]!, y + pattern[s * 2 + 1]!)
      }
    }
    return { texels, triangles, weights }
  }
}
