import { read } from 'ktx-parse'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { compressZstd } from '#runtime/node/zstd'
import { decodeImage } from '#runtime/node/read-image'
import { GristError } from '../../errors'
import { deliverHere } from '../../testing/deliver-here'
import { documentOf } from '../../testing/examples'
import { randomNumbers } from '../../testing/random-values'
import { parseDds } from '../bytes/dds-container'
import { definePacking } from '../packing'

const colour = [0, 1, 2].map((component) => ({ channel: 'colour', component, invert: false }))
const packing = definePacking({
  name: 'blocks',
  title: 'Blocks',
  summary: '',
  pattern: '{map}',
  files: (['bc1', 'bc7', undefined] as const).flatMap((block) =>
    (['ktx2', 'dds'] as const).map((format) => ({
      ...{ map: `${block ?? 'plain'}-${format}`, format, bits: 8 as const, transfer: 'srgb' as const, mips: true },
      ...(block ? { block, quality: 'fast' as const } : {}),
      slots: colour as never,
    })),
  ),
})
const bumps = documentOf({
  nodes: { bumps: { type: 'noise', params: { cells: [8, 8] } } },
  layers: [{ kind: 'layer', id: 'all', name: 'All', cells: { colour: { source: { node: 'bumps.grey' } } } }],
})
const delivered = () => deliverHere(bumps, packing, { compressZstd })

/** zstd by Debian's own program. */
function unpacked(bytes: Uint8Array): Buffer {
  const folder = mkdtempSync(join(tmpdir(), 'zstd-'))
  try {
    writeFileSync(join(folder, 'a.zst'), bytes)
    execFileSync('zstd', ['-q', '-d', join(folder, 'a.zst')])
    return readFileSync(join(folder, 'a'))
  } finally {
    rmSync(folder, { recursive: true })
  }
}

test('a KTX2 holds the very blocks of the DDS, level by level, as ktx-parse and zstd read it, with its kind and encoding', async () => {
  const { files } = await delivered()
  for (const [name, type, model] of [
    ['bc1', 132, 128],
    ['bc7', 146, 134],
    ['plain', 43, 1],
  ] as const) {
    const { vkFormat, levels, dataFormatDescriptor, pixelWidth, supercompressionScheme } = read(
      files.get(`${name}-ktx2.ktx2`)!,
    )
    expect([vkFormat, pixelWidth, supercompressionScheme]).toEqual([type, 64, 2])
    expect(dataFormatDescriptor[0]).toMatchObject({ colorModel: model, transferFunction: 2, colorPrimaries: 1 })
    const dds = files.get(`${name}-dds.dds`)!
    const parsed = parseDds(dds)
    expect(levels).toHaveLength(7)
    levels.forEach(({ levelData }, i) => {
      const { at, bytes } = parsed.levels[i]!
      expect(unpacked(levelData).equals(dds.subarray(at, at + bytes))).toBe(true)
    })
  }
})

test('both are read back alike, as what they were written from', async () => {
  const { files } = await delivered()
  for (const name of ['bc1', 'bc7', 'plain']) {
    const [ktx, dds] = await Promise.all(
      ['ktx2', 'dds'].map((format) =>
        decodeImage(Buffer.from(files.get(`${name}-${format}.${format}`)!), `${name}.${format}`),
      ),
    )
    expect([ktx!.width, ktx!.height, ktx!.channels]).toEqual([64, 64, 4])
    expect(ktx!.values).toEqual(dds!.values)
  }
})

test('without zstd at hand it is refused in words', async () => {
  await expect(deliverHere(bumps, packing)).rejects.toThrow('KTX2 files cannot be written here')
})

test('damaged files give a typed error or a picture', async () => {
  const { files } = await delivered()
  const random = randomNumbers(5)
  for (let n = 0; n < 150; n++) {
    const file = files.get(n % 2 ? 'bc1-ktx2.ktx2' : 'plain-ktx2.ktx2')!.slice()
    for (let k = 0; k < 3; k++) file[Math.floor(random() * (n % 3 ? 200 : file.length))] = Math.floor(random() * 256)
    const made = await decodeImage(
      Buffer.from(file.subarray(0, n % 5 ? file.length : Math.floor(random() * file.length))),
      'a.ktx2',
    ).catch((error: unknown) => error)
    if (made instanceof Error) expect(made).toBeInstanceOf(GristError)
    else expect(made).toHaveProperty('values')
  }
})
