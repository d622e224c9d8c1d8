import { normaliseAt } from './directions'
import type { Field } from './field'
import { rowStart } from './field'
import type { PatchSet } from './patches'

/*
 * Steps that read far over a part are done twice on a raster some times as coarse: as on a tile, and over its islands. What the islands
 * change there is smooth, and is added to the step's own result; what that leaves apart at seams is taken back (fadeSteps in patches.ts).
 * Steps that read less are done over islands at full size.
 */

/** Fills rows of a coarse field: means of blocks, of a texel that belongs to an island over the texels that do too. */
export function shrinkRows(source: Field, set: PatchSet, target: Field, from: number, to: number): void {
  const { coarse, fineOwners, owners } = set
  const { width } = source
  if (source.stride === 0) {
    source.planes.forEach((plane, p) => target.planes[p]!.fill(plane[0]!))
    return
  }
  for (let y = from; y < to; y++)
    for (let x = 0; x < target.width; x++) {
      const at = y * target.width + x
      const owner = owners[at]!
      let own = 0
      for (let v = y * coarse; v < (y + 1) * coarse; v++)
        for (let u = x * coarse; u < (x + 1) * coarse; u++) if (fineOwners[v * width + u] === owner) own++
      // One that none of the block's texels belongs to with it takes all of them.
      const all = own === 0 || owner < 0
      const count = all ? coarse * coarse : own
      for (let p = 0; p < source.planes.length; p++) {
        const plane = source.planes[p]!
        let sum = 0
        for (let v = y * coarse; v < (y + 1) * coarse; v++) {
          const row = rowStart(source, v)
          for (let u = x * coarse; u < (x + 1) * coarse; u++)
            if (all || fineOwners[v * width + u] === owner) sum += plane[row + u]!
        }
        target.planes[p]![at] = sum / count
      }
      if (source.type === 'normal') normaliseAt(target.planes, at)
    }
}

/** Adds to rows of a field what islands change: `over` less `plain`, between the coarse texels of the same island. */
export function raiseRows(
  { plain, over }: { readonly plain: Field; readonly over: Field },
  { coarse, fineOwners, owners }: PatchSet,
  target: Field,
  from: number,
  to: number,
): void {
  const across = plain.width
  const down = plain.height
  const ratios = new Float64Array(4)
  const places = new Int32Array(4)
  for (let y = from; y < to; y++)
    for (let x = 0; x < target.width; x++) {
      const owner = fineOwners[y * target.width + x]!
      if (owner < 0) continue
      const cx = (x + 0.5) / coarse - 0.5
      const cy = (y + 0.5) / coarse - 0.5
      const column = Math.floor(cx)
      const row = Math.floor(cy)
      let total = 0
      for (let k = 0; k < 4; k++) {
        const u = column + (k & 1)
        const v = row + (k >> 1)
        const near = (k & 1 ? cx - column : 1 - cx + column) * (k >> 1 ? cy - row : 1 - cy + row)
        const inside = u >= 0 && v >= 0 && u < across && v < down && owners[v * across + u] === owner
        places[k] = inside ? v * across + u : 0
        ratios[k] = inside ? near : 0
        total += ratios[k]!
      }
      if (total <= 1e-6) continue
      const at = rowStart(target, y) + x
      for (let p = 0; p < target.planes.length; p++) {
        let sum = 0
        for (let k = 0; k < 4; k++)
          if (ratios[k]! > 0) sum += ratios[k]! * (over.planes[p]![places[k]!]! - plain.planes[p]![places[k]!]!)
        target.planes[p]![at] = target.planes[p]![at]! + sum / total
      }
      if (target.type === 'normal') normaliseAt(target.planes, at)
    }
}
