import { GristError } from '../../errors'
import { LIMITS } from '../../limits'
import type { RawMesh } from '../mesh'

/** Header and count of a binary file, and one triangle of it. */
const HEAD = 84
const EACH = 50

/**
 * Reads STL, binary or text; every triangle has vertices of its own and the normal that the file gives. There are no UVs.
 * Z is up by common practice, so the model is turned: (x, y, z) becomes (x, z, −y). Throws mesh-invalid with the byte.
 * Source: 3D Systems, "StereoLithography Interface Specification", 1988 (from memory).
 */
export function readStl(bytes: Uint8Array): RawMesh {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const count = bytes.length >= HEAD ? view.getUint32(80, true) : -1
  // A binary file may begin with "solid" too; its length tells.
  if (count >= 0 && bytes.length === HEAD + count * EACH) return fromBinary(view, count)
  const text = new TextDecoder().decode(bytes)
  if (/^\s*solid/.test(text)) return fromText(text)
  if (count > 0 && bytes.length < HEAD + count * EACH)
    throw new GristError('mesh-invalid', `The file promises ${count} triangles and ends before them.`, {
      byte: bytes.length,
    })
  if (count > 0) return fromBinary(view, count)
  throw new GristError(
    'mesh-invalid',
    'This is no STL file: it neither begins with "solid" nor tells how many triangles it has.',
  )
}

function fromBinary(view: DataView, count: number): RawMesh {
  checkCount(count)
  const facets = new Facets(count)
  for (let t = 0; t < count; t++) {
    const at = HEAD + t * EACH
    facets.add(Array.from({ length: 12 }, (_, i) => view.getFloat32(at + i * 4, true)))
  }
  return facets.finish()
}

function fromText(text: string): RawMesh {
  const words = /(facet\s+normal|vertex)\s+(\S+)\s+(\S+)\s+(\S+)/g
  const values: number[][] = []
  let facet: number[] = []
  for (const match of text.matchAll(words)) {
    if (match[1] !== 'vertex') facet = []
    facet.push(...match.slice(2).map(Number))
    if (facet.length === 12) values.push(facet)
    checkCount(values.length)
  }
  const facets = new Facets(values.length)
  values.forEach((one) => facets.add(one))
  return facets.finish()
}

function checkCount(count: number): void {
  if (count > LIMITS.model.triangles)
    throw new GristError(
      'mesh-invalid',
      `Expected at most ${LIMITS.model.triangles} triangles but the file has ${count}.`,
    )
}

class Facets {
  private readonly positions: Float32Array
  private readonly normals: Float32Array
  private count = 0

  constructor(triangles: number) {
    this.positions = new Float32Array(triangles * 9)
    this.normals = new Float32Array(triangles * 9)
  }

  /** A normal and three corners. */
  add(values: readonly number[]): void {
    const [nx, ny, nz] = turned(values, 0)
    for (let corner = 0; corner < 3; corner++) {
      const at = (this.count * 3 + corner) * 3
      this.positions.set(turned(values, 3 + corner * 3), at)
      this.normals.set([nx, ny, nz], at)
    }
    this.count++
  }

  finish(): RawMesh {
    const triangles = Uint32Array.from({ length: this.count * 3 }, (_, i) => i)
    const parts = [{ name: 'solid', material: null, from: 0, count: this.count, uvSets: 0 }]
    return { positions: this.positions, normals: this.normals, uvSets: [], colours: null, triangles, parts, notes: [] }
  }
}

const turned = (values: readonly number[], at: number): [number, number, number] => [
  values[at]!,
  values[at + 2]!,
  0 - values[at + 1]!,
]
