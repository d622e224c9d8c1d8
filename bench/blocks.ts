/**
 * Measures block compression and writes bench/BLOCKS.md: how near each kind and quality comes, and how fast it is on one thread, by CPU time,
 * on photographs of Debian's python3-sklearn. PSNR is over the channels that a kind holds. Figures are for this machine.
 */
import { readFileSync, writeFileSync } from 'node:fs'
import { cpus } from 'node:os'
import sharp from 'sharp'
import { BLOCK_CHANNELS, BLOCK_KINDS } from '#core/kernels/blocks/blocks'
import { decodeBlocks } from '#core/kernels/blocks/decode-blocks'
import { BLOCK_QUALITIES } from '#core/kernels/blocks/blocks'
import { encodeBlocks } from '#core/kernels/blocks/encode-blocks'
import { lines, say, table } from './report'

const FOLDER = '/usr/lib/python3/dist-packages/sklearn/datasets/images'
const [WIDTH, HEIGHT] = [640, 424]
/** Channels of RGBA that count. */
const HELD = { bc1: [0, 1, 2], bc3: [0, 1, 2, 3], bc4: [0], bc5: [0, 1], bc7: [0, 1, 2] } as const

async function photograph(name: string): Promise<Uint8Array> {
  const file = readFileSync(`${FOLDER}/${name}.jpg`)
  const pixels = await sharp(file)
    .extract({ left: 0, top: 0, width: WIDTH, height: HEIGHT })
    .ensureAlpha()
    .raw()
    .toBuffer()
  return new Uint8Array(pixels)
}

say('# Block compression')
say()
say(
  `Made by \`npm run bench:blocks\` on ${cpus()[0]!.model.trim()}, Node ${process.version}. One thread, CPU time (the median of five runs; one at best); ${WIDTH} × ${HEIGHT}; PSNR in dB.`,
)
for (const name of ['flower', 'china']) {
  const opaque = await photograph(name)
  const withAlpha = opaque.map((v, i) => (i % 4 === 3 ? opaque[i - 2]! : v))
  say()
  say(`## ${name}.jpg`)
  say()
  const rows = BLOCK_KINDS.flatMap((kind) =>
    BLOCK_QUALITIES.map((quality) => {
      const rgba = kind === 'bc3' ? withAlpha : opaque
      // Compiled before it is measured.
      encodeBlocks(kind, rgba.subarray(0, WIDTH * 64 * 4), WIDTH, 64, quality)
      let blocks: Uint8Array = new Uint8Array()
      const taken = Array.from({ length: quality === 'best' ? 1 : 5 }, () => {
        const began = process.cpuUsage().user
        blocks = encodeBlocks(kind, rgba, WIDTH, HEIGHT, quality)
        return (process.cpuUsage().user - began) / 1e6
      }).sort((a, b) => a - b)
      const seconds = taken[taken.length >> 1]!
      const decoded = decodeBlocks(kind, blocks, WIDTH, HEIGHT)
      const each = BLOCK_CHANNELS[kind]
      let squares = 0
      for (let i = 0; i < WIDTH * HEIGHT; i++)
        for (const c of HELD[kind]) squares += (decoded[i * each + c]! - rgba[i * 4 + c]!) ** 2
      const psnr = 10 * Math.log10(65025 / (squares / (WIDTH * HEIGHT * HELD[kind].length)))
      return [kind.toUpperCase(), quality, psnr.toFixed(1), ((WIDTH * HEIGHT) / 1e6 / seconds).toFixed(2)]
    }),
  )
  table(['kind', 'quality', 'dB', 'Mpx/s'], rows)
}
writeFileSync('bench/BLOCKS.md', `${lines.join('\n').trim()}\n`)
