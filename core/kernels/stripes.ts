import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { coverage as coverageAt } from './point'
import type { Rows } from './rows'
import { simd } from './simd'

export interface Stripes {
  /** Stripes crossed along one tile width, going right and going down. */
  readonly across: number
  readonly down: number
  /** How much of each is bright, and the width of its edges in tiles. */
  readonly coverage: number
  readonly edge: number
  /** In stripes. */
  readonly offset: number
}

/** Even stripes: brightness, and the phase from 0 to 1 across each and its gap; either may be null. Source: own derivation. */
export function stripeRows(stripes: Stripes, out: Field | null, phase: Field | null, rows: Rows): void {
  const some = out ?? phase
  if (!some) return
  const { across, down, coverage, edge, offset } = stripes
  const { width } = some
  const pitch = across === 0 && down === 0 ? 1 : 1 / Math.sqrt(across * across + down * down)
  const twin = simd()
  const downAt = (y: number): number => ((floorMod(y, some.height) + 0.5) / width) * down
  if (twin)
    return twin.scratch(() => {
      const rooms = [twin.take(width), twin.take(width)]
      const fields = [out, phase]
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const at = fields.map((field, i) => field && twin.target(field, field.planes[0]!, y, y + 1, rooms[i]!))
        twin.assembly.stripesRow(at[0] ?? 0, at[1] ?? 0, width, across, downAt(y), offset, coverage, pitch, edge)
        fields.forEach((field, i) => field && twin.written(at[i]!, field, field.planes[0]!, y, y + 1, rooms[i]!))
      }
    })
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(some, y)
    const v = downAt(y)
    for (let x = 0; x < width; x++) {
      const along = ((x + 0.5) / width) * across + v - offset
      const t = along - Math.floor(along)
      if (phase) phase.planes[0]![start + x] = t
      // Distance to the nearer edge of the bright part, which lies around ½.
      const inside = (coverage / 2 - Math.abs(t - 0.5)) * pitch
      if (out) out.planes[0]![start + x] = coverage <= 0 ? 0 : coverage >= 1 ? 1 : coverageAt(inside, edge)
    }
  }
}
