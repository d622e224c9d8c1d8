import type { Field } from '../../field/field'
import { createField, rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, normal } from '../../graph/ports'
import { blurFootprint } from '../../kernels/blur'
import { blurredBand } from '../../kernels/blurred-band'
import { normalsOfHeight } from '../../kernels/normals'
import type { Rows } from '../../kernels/rows'
import { simd } from '../../kernels/simd'
import { slopeReader } from '../../kernels/slopes'

const sigmaOf = (radius: number, texels: number): number => (radius / 2) * texels

/**
 * Mean curvature, half the divergence of the unit normals, after a Gaussian over half the radius, times the radius.
 * Source: M. do Carmo, "Differential Geometry of Curves and Surfaces", section 3.3; a ball of radius R has H = 1/R.
 */
export default defineNode({
  type: 'curvature',
  version: 2,
  family: 'surface',
  title: 'Curvature',
  summary: 'Brighter than ½ on edges and bumps, darker in hollows.',
  keywords: ['convexity', 'cavity', 'edge wear', 'concave', 'bumps'],
  params: {
    radius: number({
      default: 0.01,
      min: 0.0005,
      max: 0.25,
      softRange: [0.002, 0.08],
      unit: 'tile',
      help: 'Size of the edges and bumps that are looked for.',
    }),
    strength: number({
      default: 1,
      min: 0,
      max: 100,
      softRange: [0, 4],
      help: 'At 1 a ball of the chosen radius reads 1, and a hollow of that radius 0.',
    }),
  },
  inputs: {
    height: grey({ help: 'Unit height; 0.5 lies at the surface.', whenUnconnected: null }),
    normal: normal({ help: 'Normals, used instead of the height where they are connected.', whenUnconnected: null }),
  },
  outputs: { curvature: grey({ help: '0.5 where flat.' }) },
  uses: ['metres', 'heightMetres'],
  mixedAtSeams: true,
  footprint: ({ radius }, { width, height }) =>
    blurFootprint({ kind: 'gaussian', sigma: sigmaOf(radius, width) }, height) + 2,
  scratchPlanes: () => 5,
  presets: [
    { title: 'Fine edges', keywords: ['wear', 'detail'], params: { radius: 0.004, strength: 2 } },
    { title: 'Broad form', keywords: ['large', 'bulges'], params: { radius: 0.04, strength: 1 } },
  ],
  evaluate: ({ height, normal: given }, params, { curvature }, context) => {
    if (!curvature) return
    const { width, tileTexels, rows, metres, heightMetres } = context
    const out = curvature.planes[0]!
    const sigma = sigmaOf(params.radius, tileTexels)
    const normals = given ?? (height ? normalsAround(height, (heightMetres * width) / metres[0], sigma, context) : null)
    if (!normals) {
      for (let y = rows.from; y < rows.to; y++) {
        const start = rowStart(curvature, y)
        out.fill(0.5, start, start + width)
      }
      return
    }
    const across = blurredBand(normals, normals.planes[0]!, sigma, rows, 1)
    const up = blurredBand(normals, normals.planes[1]!, sigma, rows, 1)
    writeCurvature(across, up, (params.strength * params.radius * tileTexels) / 4, curvature, rows)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [4, 4], octaves: 3 } } },
    inputs: { height: 'noise.grey' },
    params: { radius: 0.04, strength: 2 },
  },
})

/** Normals of a height field over the rows that the blur will read. */
function normalsAround(
  height: Field,
  slopeScale: number,
  sigma: number,
  { width, height: lines, rows }: { width: number; height: number; rows: { from: number; to: number; check(): void } },
): Field {
  const more = blurFootprint({ kind: 'gaussian', sigma }, lines) + 1
  const count = rows.to - rows.from + 2 * more
  const band = count >= lines ? { top: 0, rows: lines } : { top: rows.from - more, rows: count }
  const normals = createField('normal', width, lines, band)
  normalsOfHeight(
    height,
    normals,
    { from: band.top, to: band.top + band.rows, check: rows.check },
    slopeScale,
    'central',
  )
  return normals
}

/** ½ + (∂x/∂u − ∂y/∂v) · scale: v runs down, +Y up; ½ for mean curvature, ½ for the half range of grey. */
function writeCurvature(across: Field, up: Field, scale: number, curvature: Field, rows: Rows): void {
  const { width } = curvature
  const out = curvature.planes[0]!
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const [u, above, below, made] = [0, 0, 0, 0].map(() => twin.take(width)) as [number, number, number, number]
      const rowOf = (field: Field, y: number, room: number): number =>
        twin.rowsOf(field, field.planes[0]!, y, y + 1, room)
      for (let y = rows.from; y < rows.to; y++) {
        const [a, b, c] = [rowOf(across, y, u), rowOf(up, y - 1, above), rowOf(up, y + 1, below)]
        twin.assembly.curvatureRow(a, b, c, made, width, scale)
        twin.copyOut(made, curvature, out, y, y + 1)
      }
    })
  const [slopeAcross, slopeUp] = [slopeReader(across, 'central'), slopeReader(up, 'central')]
  const slopeX = new Float64Array(2)
  const slopeY = new Float64Array(2)
  for (let y = rows.from; y < rows.to; y++) {
    const start = rowStart(curvature, y)
    for (let x = 0; x < width; x++) {
      slopeAcross(x, y, slopeX)
      slopeUp(x, y, slopeY)
      out[start + x] = bounded(Math.fround(0.5 + (slopeX[0]! - slopeY[1]!) * scale))
    }
  }
}
