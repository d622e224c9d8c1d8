import { GristError } from '../errors'
import type { Mesh, MeshPart } from './mesh'

/*
 * A mesh as bytes, as servers keep it and pages fetch it: what a model file came to once it was read and checked, so that nobody reads
 * that file a second time. Layout: the length of a head as uint32, the head as JSON padded with blanks to a multiple of 4, then the
 * arrays one after the other, little-endian.
 */

interface Head {
  readonly vertices: number
  readonly triangles: number
  readonly uvSets: number
  readonly colours: boolean
  readonly parts: readonly MeshPart[]
  readonly notes: readonly string[]
}

export function packMesh({ positions, normals, uvSets, colours, triangles, parts, notes }: Mesh): Uint8Array {
  const head: Head = {
    vertices: positions.length / 3,
    triangles: triangles.length / 3,
    uvSets: uvSets.length,
    colours: colours !== null,
    parts,
    notes,
  }
  const text = new TextEncoder().encode(JSON.stringify(head))
  const padded = Math.ceil(text.length / 4) * 4
  const arrays = [positions, normals, ...uvSets, ...(colours ? [colours] : []), triangles]
  const bytes = new Uint8Array(4 + padded + arrays.reduce((sum, one) => sum + one.byteLength, 0))
  new DataView(bytes.buffer).setUint32(0, padded, true)
  bytes.fill(32, 4, 4 + padded)
  bytes.set(text, 4)
  let at = 4 + padded
  for (const one of arrays) {
    bytes.set(new Uint8Array(one.buffer, one.byteOffset, one.byteLength), at)
    at += one.byteLength
  }
  return bytes
}

/** The mesh of packMesh again; its arrays are views of a copy of the bytes. Throws mesh-invalid where the bytes are others. */
export function unpackMesh(bytes: Uint8Array): Mesh {
  // Numbers of four bytes begin at multiples of four only in memory of one's own.
  const { buffer } = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice()
  const start = bytes.byteOffset % 4 === 0 ? bytes.byteOffset : 0
  const wrong = (): GristError => new GristError('mesh-invalid', 'These bytes are not a mesh as it is kept.')
  if (bytes.length < 4) throw wrong()
  const padded = new DataView(buffer, start).getUint32(0, true)
  if (4 + padded > bytes.length) throw wrong()
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, start + 4, padded))) as Head
  const { vertices, triangles, parts, notes } = head
  let at = start + 4 + padded
  const words = vertices * (6 + head.uvSets * 2 + (head.colours ? 4 : 0)) + triangles * 3
  if (4 + padded + words * 4 !== bytes.length) throw wrong()
  const floats = (length: number): Float32Array<ArrayBuffer> => {
    const found = new Float32Array(buffer as ArrayBuffer, at, length)
    at += length * 4
    return found
  }
  return {
    positions: floats(vertices * 3),
    normals: floats(vertices * 3),
    uvSets: Array.from({ length: head.uvSets }, () => floats(vertices * 2)),
    colours: head.colours ? floats(vertices * 4) : null,
    triangles: new Uint32Array(buffer, at, triangles * 3),
    parts,
    notes,
  }
}
