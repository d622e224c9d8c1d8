import { crc32 } from '../texture/bytes/png-rows'

/** The signature of a PNG file. Source: PNG (Third Edition), section 5.2. */
const SIGNATURE = Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10)

interface Chunk {
  readonly type: string
  readonly from: number
  readonly to: number
  readonly data: Uint8Array
}

/** Chunks of a PNG file; none where it is no PNG, or is cut off. */
function* chunksOf(png: Uint8Array): Generator<Chunk> {
  if (!SIGNATURE.every((byte, i) => png[i] === byte)) return
  const view = new DataView(png.buffer, png.byteOffset, png.byteLength)
  for (let from = SIGNATURE.length; from + 12 <= png.length;) {
    const length = view.getUint32(from)
    const to = from + 12 + length
    if (to > png.length) return
    const type = String.fromCharCode(...png.subarray(from + 4, from + 8))
    yield { type, from, to, data: png.subarray(from + 8, to - 4) }
    from = to
  }
}

/**
 * A PNG file with a text under a keyword (1–79 Latin letters), in place of one that it had: an iTXt chunk, not compressed.
 * Source: PNG (Third Edition), section 11.3.3.4. Throws RangeError where it is no PNG.
 */
export function withText(png: Uint8Array, keyword: string, text: string): Uint8Array<ArrayBuffer> {
  const chunks = [...chunksOf(png)]
  const [header] = chunks
  if (header?.type !== 'IHDR') throw new RangeError('no PNG file')
  const others = chunks.slice(1).filter((chunk) => !isText(chunk, keyword))
  const parts = [SIGNATURE, slice(png, header), textChunk(keyword, text), ...others.map((chunk) => slice(png, chunk))]
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}

/** The text under a keyword; null where there is none, or no PNG. */
export function textIn(png: Uint8Array, keyword: string): string | null {
  for (const chunk of chunksOf(png)) {
    if (!isText(chunk, keyword)) continue
    const { data } = chunk
    // Keyword, not compressed, then a language and a translated keyword, each up to a zero.
    const start = keyword.length + 1
    if (data[start] !== 0) return null
    const language = data.indexOf(0, start + 2)
    const translated = language < 0 ? -1 : data.indexOf(0, language + 1)
    return translated < 0 ? null : new TextDecoder().decode(data.subarray(translated + 1))
  }
  return null
}

const isText = ({ type, data }: Chunk, keyword: string): boolean =>
  type === 'iTXt' && data[keyword.length] === 0 && [...keyword].every((letter, i) => data[i] === letter.charCodeAt(0))

const slice = (png: Uint8Array, { from, to }: Chunk): Uint8Array => png.subarray(from, to)

function textChunk(keyword: string, text: string): Uint8Array {
  const words = new TextEncoder().encode(text)
  const data = new Uint8Array(keyword.length + 5 + words.length)
  ;[...keyword].forEach((letter, i) => (data[i] = letter.charCodeAt(0)))
  data.set(words, keyword.length + 5)
  const chunk = new Uint8Array(12 + data.length)
  const view = new DataView(chunk.buffer)
  view.setUint32(0, data.length)
  chunk.set([105, 84, 88, 116], 4)
  chunk.set(data, 8)
  view.setUint32(8 + data.length, crc32(chunk.subarray(4, 8 + data.length)))
  return chunk
}
