import { decodeSrgb } from '../../colour/srgb'
import { GristError } from '../../errors'
import type { RawMesh } from '../mesh'
import { MeshBuilder } from '../mesh-builder'
import { triangulate } from '../polygon'

/** Most corners of one face: what a person or a program would draw, and no more. */
const MAX_CORNERS = 4096

/**
 * Reads Wavefront OBJ: v (with colours after the coordinates), vt, vn, f of any number of corners, o, g, usemtl, lines that go on
 * with a backslash. Lines, points, curves and smoothing groups are passed by. Throws mesh-invalid with the line.
 * Source: Wavefront "Object Files (.obj)", appendix B1 of the Advanced Visualizer manual.
 */
export function readObj(text: string): RawMesh {
  const reader = new ObjReader()
  let from = 0
  let line = 0
  let begun = ''
  while (from <= text.length) {
    const end = text.indexOf('\n', from)
    const row = text.slice(from, end < 0 ? text.length : end).replace(/\r$/, '')
    line++
    if (row.endsWith('\\') && end >= 0) begun += `${row.slice(0, -1)} `
    else {
      reader.read(begun + row, line)
      begun = ''
    }
    if (end < 0) break
    from = end + 1
  }
  return reader.builder.finish()
}

class ObjReader {
  readonly builder = new MeshBuilder()
  private readonly positions: number[][] = []
  private readonly colours: (number[] | undefined)[] = []
  private readonly uvs: number[][] = []
  private readonly normals: number[][] = []
  private object = ''
  private material: string | null = null

  read(row: string, line: number): void {
    const [word, ...rest] = row.trim().split(/\s+/)
    switch (word) {
      case 'v': {
        const values = numbers(rest, 3, line)
        this.positions.push(values.slice(0, 3))
        // Colours after the coordinates are sRGB-encoded by common practice.
        this.colours.push(values.length >= 6 ? [...values.slice(-3).map(decodeSrgb), 1] : undefined)
        return
      }
      case 'vt':
        return void this.uvs.push(numbers(rest, 1, line))
      case 'vn':
        return void this.normals.push(numbers(rest, 3, line))
      case 'f':
        return this.face(rest, line)
      case 'o':
      case 'g':
        this.object = rest.join(' ')
        return this.builder.part(this.object, this.material)
      case 'usemtl':
        this.material = rest.join(' ') || null
        return this.builder.part(this.object, this.material)
    }
  }

  private face(words: readonly string[], line: number): void {
    if (words.length < 3) throw new GristError('mesh-invalid', `A face has ${words.length} corners.`, { line })
    if (words.length > MAX_CORNERS)
      throw new GristError('mesh-invalid', `A face has ${words.length} corners; at most ${MAX_CORNERS} are read.`, {
        line,
      })
    let hasUvs = true
    const flat: number[] = []
    const corners = words.map((word) => {
      const [v = '', vt = '', vn = ''] = word.split('/')
      const position = this.at(this.positions, v, 'v', line)
      const uv = vt === '' ? -1 : this.at(this.uvs, vt, 'vt', line)
      const normal = vn === '' ? -1 : this.at(this.normals, vn, 'vn', line)
      hasUvs &&= uv >= 0
      flat.push(...this.positions[position]!)
      const [u = 0, up = 0] = uv < 0 ? [] : this.uvs[uv]!
      return this.builder.vertex(`${position}/${uv}/${normal}`, this.positions[position]!, {
        // In OBJ v grows upward.
        uv: uv < 0 ? undefined : [u, 1 - up],
        normal: normal < 0 ? undefined : this.normals[normal],
        colour: this.colours[position],
      })
    })
    const cut = triangulate(flat)
    for (let i = 0; i < cut.length; i += 3)
      this.builder.triangle(corners[cut[i]!]!, corners[cut[i + 1]!]!, corners[cut[i + 2]!]!, hasUvs)
  }

  /** An index from 1, or from the end where it is negative. */
  private at(list: readonly unknown[], word: string, what: string, line: number): number {
    const given = Number(word)
    const index = given < 0 ? list.length + given : given - 1
    if (!Number.isInteger(given) || index < 0 || index >= list.length || given === 0)
      throw new GristError('mesh-invalid', `A face names ${what} ${word || '(none)'}, but there are ${list.length}.`, {
        line,
      })
    return index
  }
}

function numbers(words: readonly string[], min: number, line: number): number[] {
  const values = words.map(Number)
  if (values.length < min || values.some((v) => !Number.isFinite(v)))
    throw new GristError('mesh-invalid', `Expected ${min} numbers but received "${words.join(' ').slice(0, 60)}".`, {
      line,
    })
  return values
}
