import { encodeSrgb } from '../colour/srgb'
import type { Mesh } from './mesh'

/**
 * A mesh as binary PLY: places, normals, colours as sRGB bytes, and the first UV set. Where there are many parts they follow each other.
 * Source: G. Turk, "The PLY polygon file format", 1994.
 */
export function writePly({ positions, normals, colours, uvSets, triangles }: Mesh): Uint8Array {
  const vertices = positions.length / 3
  const uvs = uvSets[0]
  const properties = [
    ...['x', 'y', 'z', 'nx', 'ny', 'nz', ...(uvs ? ['s', 't'] : [])].map((name) => `property float ${name}`),
    ...(colours ? ['red', 'green', 'blue', 'alpha'].map((name) => `property uchar ${name}`) : []),
  ]
  const head = new TextEncoder().encode(
    [
      'ply',
      'format binary_little_endian 1.0',
      `element vertex ${vertices}`,
      ...properties,
      `element face ${triangles.length / 3}`,
      'property list uchar uint vertex_indices',
      'end_header\n',
    ].join('\n'),
  )
  const each = (uvs ? 32 : 24) + (colours ? 4 : 0)
  const bytes = new Uint8Array(head.length + vertices * each + (triangles.length / 3) * 13)
  bytes.set(head)
  const view = new DataView(bytes.buffer)
  let at = head.length
  const float = (value: number): void => {
    view.setFloat32(at, value, true)
    at += 4
  }
  for (let v = 0; v < vertices; v++) {
    for (let k = 0; k < 3; k++) float(positions[v * 3 + k]!)
    for (let k = 0; k < 3; k++) float(normals[v * 3 + k]!)
    // The format has t growing upward.
    if (uvs) [uvs[v * 2]!, 1 - uvs[v * 2 + 1]!].forEach(float)
    if (colours)
      for (let k = 0; k < 4; k++) {
        const value = Math.min(1, Math.max(0, colours[v * 4 + k]!))
        bytes[at++] = Math.round((k < 3 ? encodeSrgb(value) : value) * 255)
      }
  }
  for (let t = 0; t < triangles.length; t += 3) {
    bytes[at++] = 3
    for (let k = 0; k < 3; k++) {
      view.setUint32(at, triangles[t + k]!, true)
      at += 4
    }
  }
  return bytes
}
