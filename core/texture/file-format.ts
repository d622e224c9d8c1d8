import type { BlockKind } from '../kernels/blocks/blocks'
import type { BlockQuality } from '../kernels/blocks/blocks'
import type { ByteWriter } from './bytes/byte-writer'
import type { Deflate } from './bytes/deflate'
import type { CompressZstd } from './bytes/zstd'
import type { EncodeJpeg, ThroughJpeg } from './jpeg-codec'

/** How a format holds a number: whole steps of 0–1, or floats. */
export interface Depth {
  readonly bits: 8 | 16 | 32
  readonly float: boolean
  /** "8-bit", "half". */
  readonly title: string
}

/** What a file is to hold. */
export interface FileShape {
  readonly width: number
  readonly height: number
  /** 1 grey, 3 colour, 4 colour and alpha. */
  readonly channels: 1 | 3 | 4
  readonly depth: Depth
  /** Colour is sRGB-encoded; formats that can mark a file so do. */
  readonly srgb: boolean
  /** Blocks of 4 × 4 texels that it is compressed in, how hard they are looked for, and whether its mips are in the file. */
  readonly block?: BlockKind
  readonly quality?: BlockQuality
  readonly mips?: boolean
}

/** Whole rows of interleaved channels: bytes and shorts of whole steps, or floats, as the depth says. */
export type FileRows = Uint8Array | Uint16Array | Float32Array

/** Codecs that a platform brings. */
export interface FormatHost {
  readonly encodeJpeg?: EncodeJpeg
  readonly throughJpeg?: ThroughJpeg
  readonly compressZstd?: CompressZstd
  /** Compresses; without one pako does, everywhere alike. */
  readonly deflate?: Deflate
}

/** Where rows stand in a file, and the row above them where there is one. */
export interface FileBand {
  readonly top: number
  readonly rows: number
  readonly above: FileRows | null
}

/** Rows as they stand in a file: plain data, so that it can come from another thread. */
export interface CodedRows {
  readonly parts: readonly Uint8Array[]
  /** What a checksum over the whole file is put together from: that of these rows, and of how many bytes. */
  readonly check?: number
  readonly checkedBytes?: number
}

/** Puts coded rows together, from the top. */
export interface FileAssembler {
  add(coded: CodedRows, band: Pick<FileBand, 'top' | 'rows'>): void
  /** Adds a whole mip level, the largest first; of formats that hold mips. */
  addMip?(coded: CodedRows): void
  /** A promise where the writer needs the whole picture first. */
  end(): void | Promise<void>
}

/** How files of a format are written. */
export interface FormatWriter {
  /** The usual one first; each has bits of its own. */
  readonly depths: readonly Depth[]
  /** Whether it has a form of one channel, and one of four. */
  readonly grey: boolean
  readonly alpha: boolean
  /** Rows that are coded together: bands begin at multiples of it. */
  readonly blockRows: number
  /** Whether it holds blocks and mips, as graphics cards read them. */
  readonly holdsBlocks?: true
  /** Codes a band of rows apart from the others, on any thread. */
  code(rows: FileRows, shape: FileShape, band: FileBand, host: FormatHost): CodedRows
  /** Begins a file. Throws packing-invalid where the host lacks what it takes, size-invalid where it cannot hold so much. */
  start(shape: FileShape, to: ByteWriter, host: FormatHost): FileAssembler
  /** The steps that a reader finds, where they are others than those that were written. */
  readBack?(steps: Uint8Array, shape: FileShape, host: FormatHost): Promise<Uint8Array>
}

/** A kind of image file: one file in formats/, with its test; the list is generated. */
export interface FileFormat {
  /** In packings and records; the extension of what is written. */
  readonly name: string
  readonly title: string
  readonly mime: string
  /** Other extensions it goes by. */
  readonly alsoKnownAs?: readonly string[]
  /** Whether a file is one of these, by its first bytes (64, or as many as there are). */
  isOf(head: Uint8Array): boolean
  /** Who reads it: the platform's library, or a reader of its own (runtime/node/loaders.ts). */
  readonly reader: 'native' | 'exr' | 'hdr' | 'tga' | 'dds' | 'ktx2'
  /** Whether a file marks itself as sRGB-encoded, by its first bytes; absent where the format has no such mark. */
  isMarkedSrgb?(head: Uint8Array): boolean
  /** Changes values to save space. */
  readonly lossy: boolean
  readonly write?: FormatWriter
}

/** Whether bytes begin so. */
export const beginsWith = (head: Uint8Array, ...bytes: readonly number[]): boolean =>
  bytes.every((byte, i) => head[i] === byte)

export const EIGHT: Depth = { bits: 8, float: false, title: '8-bit' }
export const SIXTEEN: Depth = { bits: 16, float: false, title: '16-bit' }
export const HALF: Depth = { bits: 16, float: true, title: 'half' }
export const FLOAT: Depth = { bits: 32, float: true, title: 'float' }
