import { encodeSrgb } from '../colour/srgb'
import type { Mesh } from './mesh'

/** Maps of a part as an OBJ's materials name them: paths from its folder. */
export interface ObjMaterial {
  readonly name: string
  readonly colour?: string | undefined
  readonly normal?: string | undefined
  readonly roughness?: string | undefined
  readonly metallic?: string | undefined
  readonly emission?: string | undefined
  readonly opacity?: string | undefined
}

const numbers = (values: Float32Array, at: number, count: number): string =>
  Array.from({ length: count }, (_, k) => String(values[at + k]!)).join(' ')

/**
 * A mesh as Wavefront OBJ: an object for each part, its triangles in the mesh's order; colours after the coordinates, sRGB-encoded by common
 * practice. `library` is the path of its materials, `materialOf` which of them a part has; UVs of one set, v upward.
 * Source: Wavefront "Object Files (.obj)", appendix B1 of the Advanced Visualizer manual.
 */
export function writeObj(
  { positions, normals, uvSets, colours, triangles, parts }: Mesh,
  {
    uvSet = 0,
    library,
    materialOf = () => null,
  }: { uvSet?: number; library?: string; materialOf?: (part: number) => string | null } = {},
): string {
  const lines = library ? [`mtllib ${library}`] : []
  const uvs = uvSets[uvSet]
  for (let i = 0; i < positions.length / 3; i++) {
    const colour = colours ? ` ${[0, 1, 2].map((k) => encodeSrgb(colours[i * 4 + k]!).toFixed(6)).join(' ')}` : ''
    lines.push(`v ${numbers(positions, i * 3, 3)}${colour}`)
  }
  if (uvs) for (let i = 0; i < uvs.length; i += 2) lines.push(`vt ${uvs[i]!} ${1 - uvs[i + 1]!}`)
  for (let i = 0; i < normals.length; i += 3) lines.push(`vn ${numbers(normals, i, 3)}`)
  parts.forEach(({ name, from, count, uvSets: own }, part) => {
    lines.push(`o ${name.replace(/\s+/g, ' ')}`)
    const material = materialOf(part)
    if (material !== null) lines.push(`usemtl ${material}`)
    const hasUvs = uvs !== undefined && uvSet < own
    for (let t = from; t < from + count; t++) {
      const corners = [0, 1, 2].map((k) => triangles[t * 3 + k]! + 1)
      lines.push(`f ${corners.map((i) => `${i}/${hasUvs ? i : ''}/${i}`).join(' ')}`)
    }
  })
  return `${lines.join('\n')}\n`
}

/**
 * Materials of an OBJ. Words for maps: the Advanced Visualizer manual for colour, opacity and emission; for roughness, metallic and normals
 * by common practice (map_Pr, map_Pm, norm).
 */
export const writeMtl = (materials: readonly ObjMaterial[]): string =>
  materials
    .map(({ name, colour, normal, roughness, metallic, emission, opacity }) =>
      [
        `newmtl ${name}`,
        'Kd 1 1 1',
        ...(emission ? ['Ke 1 1 1'] : []),
        ...Object.entries({
          map_Kd: colour,
          map_d: opacity,
          map_Ke: emission,
          map_Pr: roughness,
          map_Pm: metallic,
          norm: normal,
        }).flatMap(([word, path]) => (path === undefined ? [] : [`${word} ${path}`])),
      ].join('\n'),
    )
    .join('\n\n') + '\n'
