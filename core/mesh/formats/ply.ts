import { decodeSrgb } from '../../colour/srgb'
import { GristError } from '../../errors'
import type { RawMesh } from '../mesh'
import { MeshBuilder } from '../mesh-builder'
import { triangulate } from '../polygon'

/** Bytes of each type, and how it is read. Old and new names. */
const TYPES: Record<string, readonly [number, (view: DataView, at: number, little: boolean) => number]> = {
  char: [1, (view, at) => view.getInt8(at)],
  uchar: [1, (view, at) => view.getUint8(at)],
  short: [2, (view, at, little) => view.getInt16(at, little)],
  ushort: [2, (view, at, little) => view.getUint16(at, little)],
  int: [4, (view, at, little) => view.getInt32(at, little)],
  uint: [4, (view, at, little) => view.getUint32(at, little)],
  float: [4, (view, at, little) => view.getFloat32(at, little)],
  double: [8, (view, at, little) => view.getFloat64(at, little)],
}
const NEW_NAMES: Record<string, string> = {
  int8: 'char',
  uint8: 'uchar',
  int16: 'short',
  uint16: 'ushort',
  int32: 'int',
  uint32: 'uint',
  float32: 'float',
  float64: 'double',
}
/** Greatest value of a colour in each type; floats go to 1. */
const WHOLE: Record<string, number> = { uchar: 255, ushort: 65535 }
const MAX_CORNERS = 4096
const MAX_HEADER = 1 << 16

interface Property {
  readonly name: string
  readonly type: string
  /** The type of a list's length; absent where it is one value. */
  readonly length?: string
}
interface Element {
  readonly name: string
  readonly count: number
  readonly properties: readonly Property[]
}
type Row = Readonly<Record<string, number | readonly number[]>>

/**
 * Reads PLY: text, or binary of either byte order. Vertices with x y z, normals, colours (sRGB-encoded), UVs as s t, u v or
 * texture_u texture_v; faces of any number of corners, with UVs of their own in a list "texcoord". v grows upward.
 * Throws mesh-invalid, with the byte where it is known.
 * Source: G. Turk, "The PLY Polygon File Format", 1994.
 */
export function readPly(bytes: Uint8Array): RawMesh {
  const { elements, body, form } = readHeader(bytes)
  const source = form === 'ascii' ? new Words(bytes, body) : new Binary(bytes, body, form === 'binary_little_endian')
  const builder = new MeshBuilder()
  builder.part('surface', null)
  const vertices: Row[] = []
  for (const element of elements)
    for (let i = 0; i < element.count; i++) {
      const row = readRow(source, element)
      if (element.name === 'vertex') vertices.push(row)
      else if (element.name === 'face') addFace(builder, row, vertices, elements)
    }
  return builder.finish()
}

function readHeader(bytes: Uint8Array): { elements: Element[]; body: number; form: string } {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, MAX_HEADER))
  const end = /(^|\n)end_header[ \t]*\r?\n/.exec(text)
  if (!/^ply\s/.test(text) || !end) throw new GristError('mesh-invalid', 'This is no PLY file: it has no whole header.')
  const elements: { name: string; count: number; properties: Property[] }[] = []
  let form = ''
  for (const row of text.slice(0, end.index).split(/\r?\n/)) {
    const [word, ...rest] = row.trim().split(/\s+/)
    if (word === 'format') form = rest[0] ?? ''
    else if (word === 'element') {
      const count = Number(rest[1])
      if (!Number.isInteger(count) || count < 0)
        throw new GristError('mesh-invalid', `The element ${rest[0]} has "${rest[1]}" rows.`)
      elements.push({ name: rest[0] ?? '', count, properties: [] })
    } else if (word === 'property') elements.at(-1)?.properties.push(propertyOf(rest))
  }
  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(form))
    throw new GristError(
      'mesh-invalid',
      `Expected ascii, binary_little_endian or binary_big_endian but the format is "${form}".`,
    )
  return { elements, body: end.index + end[0].length, form }
}

function propertyOf(words: readonly string[]): Property {
  const type = (word: string | undefined): string => {
    const old = NEW_NAMES[word ?? ''] ?? word ?? ''
    if (!Object.hasOwn(TYPES, old))
      throw new GristError('mesh-invalid', `A property has the type "${word}", which is none.`)
    return old
  }
  return words[0] === 'list'
    ? { name: words[3] ?? '', type: type(words[2]), length: type(words[1]) }
    : { name: words[1] ?? '', type: type(words[0]) }
}

interface Source {
  value(type: string): number
}

class Words implements Source {
  private readonly text: string
  private at = 0
  constructor(bytes: Uint8Array, body: number) {
    this.text = new TextDecoder('latin1').decode(bytes.subarray(body))
  }
  value(): number {
    const { text } = this
    while (this.at < text.length && text.charCodeAt(this.at) <= 32) this.at++
    const from = this.at
    while (this.at < text.length && text.charCodeAt(this.at) > 32) this.at++
    if (from === this.at) throw new GristError('mesh-invalid', 'The file ends before what its header promises.')
    return Number(text.slice(from, this.at))
  }
}

class Binary implements Source {
  private readonly view: DataView
  constructor(
    bytes: Uint8Array,
    private at: number,
    private readonly little: boolean,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }
  value(type: string): number {
    const [size, read] = TYPES[type]!
    if (this.at + size > this.view.byteLength)
      throw new GristError('mesh-invalid', 'The file ends before what its header promises.', { byte: this.at })
    const value = read(this.view, this.at, this.little)
    this.at += size
    return value
  }
}

function readRow(source: Source, { properties }: Element): Row {
  const row: Record<string, number | readonly number[]> = {}
  for (const { name, type, length } of properties) {
    if (length === undefined) row[name] = source.value(type)
    else {
      const count = source.value(length)
      if (!Number.isInteger(count) || count < 0 || count > MAX_CORNERS)
        throw new GristError('mesh-invalid', `A list of ${name} has ${count} members; at most ${MAX_CORNERS} are read.`)
      row[name] = Array.from({ length: count }, () => source.value(type))
    }
  }
  return row
}

/** The first of some names that a row has, as numbers. */
function valuesOf(row: Row, ...names: readonly (readonly string[])[]): number[] | undefined {
  const found = names.find((ones) => ones.every((name) => typeof row[name] === 'number'))
  return found?.map((name) => row[name] as number)
}

function addFace(builder: MeshBuilder, row: Row, vertices: readonly Row[], elements: readonly Element[]): void {
  const indices = row['vertex_indices'] ?? row['vertex_index']
  if (!Array.isArray(indices)) return
  const own = row['texcoord']
  const perCorner = Array.isArray(own) && own.length === indices.length * 2 ? (own as readonly number[]) : null
  const whole =
    WHOLE[elements.find(({ name }) => name === 'vertex')?.properties.find(({ name }) => name === 'red')?.type ?? ''] ??
    1
  let hasUvs = true
  const flat: number[] = []
  const corners = (indices as readonly number[]).map((index, i) => {
    const vertex = vertices[index]
    const position = vertex && valuesOf(vertex, ['x', 'y', 'z'])
    if (!position)
      throw new GristError('mesh-invalid', `A face names vertex ${index}, but there are ${vertices.length} before it.`)
    flat.push(...position)
    const uv = perCorner
      ? [perCorner[i * 2]!, perCorner[i * 2 + 1]!]
      : valuesOf(vertex, ['s', 't'], ['u', 'v'], ['texture_u', 'texture_v'])
    hasUvs &&= uv !== undefined
    const colour = valuesOf(vertex, ['red', 'green', 'blue', 'alpha'], ['red', 'green', 'blue'])
    return builder.vertex(perCorner ? `${index}/${uv!.join('/')}` : String(index), position, {
      uv: uv && [uv[0]!, 1 - uv[1]!],
      normal: valuesOf(vertex, ['nx', 'ny', 'nz']),
      colour: colour?.map((v, k) => (k < 3 ? decodeSrgb(v / whole) : v / whole)),
    })
  })
  const cut = triangulate(flat)
  for (let i = 0; i < cut.length; i += 3)
    builder.triangle(corners[cut[i]!]!, corners[cut[i + 1]!]!, corners[cut[i + 2]!]!, hasUvs)
}
