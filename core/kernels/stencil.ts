import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { ImagePyramid } from '../field/pyramid'
import { cosTurns, sinTurns } from '../elementary'
import { mixBounded } from './blend-fields'
import { bledReader } from './bleed'
import { levelFor } from './image-sampling'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

/** Where a picture lies: tile widths, its own width, turns counter-clockwise. */
export interface StencilPlace {
  readonly centre: readonly [number, number]
  readonly size: number
  readonly angle: number
  readonly mirror: boolean
  readonly opacity: number
}

interface Inputs {
  readonly under: Field
  readonly mask: Field | null
}

interface Outputs {
  readonly result?: Field
  readonly alpha?: Field
  readonly colour?: Field
}

/**
 * A picture with straight alpha over a field, where the mask shows it. Twin: core/kernels/assembly/stencil.ts.
 */
export function stencilFields(
  { under, mask }: Inputs,
  pyramid: ImagePyramid | null,
  params: StencilPlace,
  out: Outputs,
  rows: Rows,
): void {
  const { width, height } = under
  const twin = pyramid ? simd() : null
  if (twin) return twin.scratch(() => bySimd(twin, { under, mask }, pyramid!, params, out, rows))
  const at = pyramid ? placed(pyramid, params, width, height) : null
  const texel = new Float64Array(4)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const u0 = rowStart(under, y)
    const m0 = mask ? rowStart(mask, y) : 0
    const [r0, a0, c0] = [out.result, out.alpha, out.colour].map((field) => (field ? rowStart(field, y) : 0)) as [
      number,
      number,
      number,
    ]
    // What the picture does not reach stays as it is.
    under.planes.forEach((plane, p) => out.result?.planes[p]!.set(plane.subarray(u0, u0 + width), r0))
    out.alpha?.planes[0]!.fill(0, a0, a0 + width)
    out.colour?.planes.forEach((plane) => plane.fill(0, c0, c0 + width))
    for (let x = 0; x < width; x++) {
      if (!at?.(x, floorMod(y, height), texel)) continue
      const shows = mask ? Math.min(1, Math.max(0, mask.planes[0]![m0 + x]!)) : 1
      const alpha = Math.fround(texel[3]! * params.opacity * shows)
      if (out.alpha) out.alpha.planes[0]![a0 + x] = alpha + 0
      for (let p = 0; p < 3; p++) {
        if (out.result)
          out.result.planes[p]![r0 + x] = mixBounded(under.planes[p]![u0 + x]!, Math.fround(texel[p]!), alpha)
        if (out.colour) out.colour.planes[p]![c0 + x] = bounded(texel[p]!)
      }
    }
  }
}

/** How far a picture reaches, in tile widths, and where its copies may lie. */
function extent(pyramid: ImagePyramid, { size }: StencilPlace, width: number, height: number) {
  const base = pyramid.levels[0]!
  const tall = (size * base.height) / base.width
  const tile = height / width
  const reach = Math.sqrt(size * size + tall * tall) / 2
  const footprint = [1 / (size * width), 1 / (tall * width)] as const
  const far = (reach + 2 / width) * (reach + 2 / width)
  return { tall, tile, footprint, far, spanX: Math.ceil(reach + 0.5), spanY: Math.ceil(reach / tile + 0.5) }
}

function bySimd(
  twin: Simd,
  { under, mask }: Inputs,
  pyramid: ImagePyramid,
  place: StencilPlace,
  out: Outputs,
  rows: Rows,
): void {
  const { width, height } = under
  const { centre, size, angle, mirror, opacity } = place
  const { tall, tile, footprint, far, spanX, spanY } = extent(pyramid, place, width, height)
  const [cos, sin] = [cosTurns(angle), sinTurns(angle)]
  const { levels } = pyramid
  const levelsAt = twin.take(4 * levels.length)
  const texels = levels.map((level) => twin.allOf(level.texels))
  twin.ints(levelsAt, 4 * levels.length).set(levels.flatMap((level, i) => [texels[i]!, level.width, level.height, 0]))
  // The picture as large as it shows, and then ever coarser (bledReader).
  const readers = [footprint, ...levels.slice(1).map((level) => [1 / level.width, 1 / level.height] as const)].map(
    (one) => levelFor(pyramid, one),
  )
  const readersAt = twin.take(4 * readers.length)
  const numbers = new Float64Array(twin.shared.buffer, readersAt, 2 * readers.length)
  readers.forEach(({ near, fraction }, i) => {
    twin.ints(readersAt + 16 * i, 1)[0] = near
    numbers[2 * i + 1] = fraction
  })
  const rooms = [0, 1, 2, 3].map(() => twin.take(width))
  const room = (field: Field | undefined, planes: number): number[] =>
    Array.from({ length: planes }, () => (field ? twin.take(width) : 0))
  const [result, alpha, colour] = [room(out.result, 3), room(out.alpha, 1), room(out.colour, 3)]
  const bring = (at: readonly number[], field: Field | undefined, y: number): void =>
    field?.planes.forEach((plane, p) => twin.copyOut(at[p]!, field, plane, y, y + 1))
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const below = under.planes.map((plane, p) => twin.rowsOf(under, plane, y, y + 1, rooms[p]!))
    const shows = mask ? twin.rowsOf(mask, mask.planes[0]!, y, y + 1, rooms[3]!) : 0
    const v = (floorMod(y, height) + 0.5) / width - centre[1]
    twin.assembly.stencilRow(
      width,
      centre[0],
      v,
      tile,
      spanX,
      spanY,
      far,
      cos,
      sin,
      size,
      tall,
      mirror,
      opacity,
      levelsAt,
      readersAt,
      readers.length,
      below[0]!,
      below[1]!,
      below[2]!,
      shows,
      result[0]!,
      result[1]!,
      result[2]!,
      alpha[0]!,
      colour[0]!,
      colour[1]!,
      colour[2]!,
    )
    bring(result, out.result, y)
    bring(alpha, out.alpha, y)
    bring(colour, out.colour, y)
  }
}

/**
 * Straight colour and alpha of the placed picture at a texel; the copy that covers most counts where the tile wraps. False where
 * none reaches.
 */
function placed(
  pyramid: ImagePyramid,
  place: StencilPlace,
  width: number,
  height: number,
): (x: number, y: number, texel: Float64Array) => boolean {
  const { centre, size, angle, mirror } = place
  const { tall, tile, footprint, far, spanX, spanY } = extent(pyramid, place, width, height)
  const cos = cosTurns(angle)
  const sin = sinTurns(angle)
  const read = bledReader(pyramid, footprint)
  const found = new Float64Array(4)
  return (x, y, texel) => {
    let max = -1
    const u = (x + 0.5) / width - centre[0]
    const v = (y + 0.5) / width - centre[1]
    const dx = u - Math.round(u)
    const dy = v - Math.round(v / tile) * tile
    // Of all copies this one is the nearest.
    if (dx * dx + dy * dy > far) return false
    for (let j = -spanY; j <= spanY; j++)
      for (let i = -spanX; i <= spanX; i++) {
        const px = dx + i
        const py = dy + j * tile
        if (px * px + py * py > far) continue
        const across = (px * cos - py * sin) / size
        const down = (px * sin + py * cos) / tall
        // The picture's own border is softened over a texel.
        const border = Math.min(0.5 - Math.abs(across), ((0.5 - Math.abs(down)) * tall) / size) * size * width + 0.5
        if (border <= 0) continue
        read(mirror ? 0.5 - across : across + 0.5, down + 0.5, found)
        const alpha = found[3]! * Math.min(1, border)
        if (alpha <= max) continue
        max = alpha
        texel.set(found)
        texel[3] = alpha
      }
    return max >= 0
  }
}
