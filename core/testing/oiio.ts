import { Buffer } from 'node:buffer'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/**
 * Reads an image file with OpenImageIO's oiiotool, Debian's package: its type as oiiotool names it, and its values as
 * float32 planes (integers as shares of their largest), rows top to bottom.
 */
export function readWithOiio(bytes: Uint8Array, extension: string): { info: string; planes: Float32Array[] } {
  const folder = mkdtempSync(join(tmpdir(), 'oiio-'))
  try {
    const path = join(folder, `in.${extension}`)
    writeFileSync(path, bytes)
    const out = join(folder, 'out.tif')
    // Alpha stays unassociated, as the file has it.
    const read = ['--info', '-v', '-iconfig', 'oiio:UnassociatedAlpha', '1', path]
    const info = execFileSync('oiiotool', [...read, '-d', 'float', '--compression', 'none', '-o', out], {
      encoding: 'utf8',
    })
    return { info, planes: readFloatTiff(readFileSync(out)) }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Planes of an uncompressed little-endian float32 TIFF in strips, as oiiotool writes it. Source: TIFF 6.0, section 2. */
function readFloatTiff(file: Buffer): Float32Array[] {
  const at = file.readUInt32LE(4)
  const tags = new Map<number, number[]>()
  for (let t = 0; t < file.readUInt16LE(at); t++) {
    const entry = at + 2 + 12 * t
    const wide = file.readUInt16LE(entry + 2) === 4
    const count = file.readUInt32LE(entry + 4)
    const size = wide ? 4 : 2
    const place = count * size <= 4 ? entry + 8 : file.readUInt32LE(entry + 8)
    if (place + count * size > file.length) continue
    const read = (i: number): number => (wide ? file.readUInt32LE(place + 4 * i) : file.readUInt16LE(place + 2 * i))
    tags.set(
      file.readUInt16LE(entry),
      Array.from({ length: count }, (_, i) => read(i)),
    )
  }
  const [width, height, channels] = [256, 257, 277].map((tag) => tags.get(tag)![0]!) as [number, number, number]
  const strips = tags.get(273)!.map((from, i) => file.subarray(from, from + tags.get(279)![i]!))
  const values = Buffer.concat(strips)
  if (values.length !== width * height * channels * 4) throw new Error('the strips do not fill the picture')
  return Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: width * height }, (_, i) => values.readFloatLE(4 * (i * channels + c))),
  )
}
