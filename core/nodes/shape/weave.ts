import { floorMod, rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, number, pair } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { cosTurns } from '../../kernels/elementary'

/** A repeat of the weave: how many threads it takes, and whether warp i lies over weft j. */
const WEAVES = {
  plain: { cycle: 2, over: (i, j) => (i + j) % 2 === 0 },
  twill: { cycle: 4, over: (i, j) => (i + j) % 4 < 2 },
  // A five-end satin: each warp dips under one weft in five, two further on every time.
  satin: { cycle: 5, over: (i, j) => (j * 2 + i * 4) % 5 !== 0 },
} as const satisfies Record<string, { cycle: number; over(i: number, j: number): boolean }>

const snapped = (wanted: number, cycle: number): number => Math.max(1, Math.round(wanted / cycle)) * cycle

/** Threads over and under each other. Source: Z. Grosicki, "Watson's Textile Design and Colour", plain, 2/2 twill, satin. */
export default defineNode({
  type: 'weave',
  version: 1,
  family: 'shape',
  title: 'Weave',
  summary: 'Threads that cross over and under: plain, twill or satin.',
  find: ['cloth', 'fabric', 'canvas', 'textile', 'linen', 'wicker', 'threads', 'basketry'],
  params: {
    weave: choice({
      default: 'plain',
      options: Object.keys(WEAVES) as (keyof typeof WEAVES)[],
      help: 'One over one under, two over two under with a slant, or four over one under.',
    }),
    threads: pair({
      default: [16, 16],
      min: 2,
      max: 512,
      usual: [4, 64],
      whole: true,
      unit: 'cells',
      help: 'Warp threads across, weft threads down. Snapped so that the weave closes.',
    }),
    gap: number({
      default: 0.1,
      min: 0,
      max: 0.9,
      usual: [0, 0.5],
      help: 'Space between threads, as a share of their pitch.',
    }),
    roundness: number({ default: 1, min: 0, max: 1, help: 'From flat bands to round threads.' }),
    wave: number({ default: 0.5, min: 0, max: 1, help: 'How much threads rise and sink against how thick they are.' }),
  },
  inputs: {},
  outputs: {
    height: grey({ help: '0 in the openings, to 1 on top.' }),
    warp: grey({ help: '1 where the warp is seen, 0 where the weft or nothing is.' }),
    thread: grey({ help: '1 on threads, 0 in openings.' }),
  },
  hardEdged: ['warp'],
  reach: () => 'point',
  says: ({ weave, threads }) => {
    const { cycle } = WEAVES[weave]
    return [`Woven of ${snapped(threads[0], cycle)} warp and ${snapped(threads[1], cycle)} weft threads.`]
  },
  evaluate: (_, params, { height, warp, thread }, { width, rows }) => {
    const some = height ?? warp ?? thread
    if (!some) return
    const { cycle, over } = WEAVES[params.weave]
    const [across, down] = [snapped(params.threads[0], cycle), snapped(params.threads[1], cycle)]
    const half = (1 - params.gap) / 2
    const lines = some.height
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const start = rowStart(some, y)
      const v = ((floorMod(y, lines) + 0.5) / lines) * down
      for (let x = 0; x < width; x++) {
        const u = ((x + 0.5) / width) * across
        const [i, j] = [Math.floor(u), Math.floor(v)]
        // Thread profiles at the distance from their middles, softened over a texel.
        const warpIn = covered(half - Math.abs(u - i - 0.5), across / width)
        const weftIn = covered(half - Math.abs(v - j - 0.5), down / lines)
        const warpTop = heightOf(
          params,
          warpIn,
          (u - i - 0.5) / half,
          rise(v, (n) => over(i % cycle, n % cycle), down),
        )
        const weftTop = heightOf(
          params,
          weftIn,
          (v - j - 0.5) / half,
          rise(u, (n) => !over(n % cycle, j % cycle), across),
        )
        if (height) height.planes[0]![start + x] = Math.max(warpTop, weftTop)
        if (warp) warp.planes[0]![start + x] = warpTop > weftTop ? 1 : 0
        if (thread) thread.planes[0]![start + x] = Math.max(warpIn, weftIn)
      }
    }
  },
  example: { params: { weave: 'twill', threads: [12, 12], gap: 0.15 } },
})

const covered = (inside: number, texel: number): number => {
  const share = 0.5 + inside / texel
  return share < 0 ? 0 : share > 1 ? 1 : share
}

/** −1 under, 1 over, along a thread: eased by a cosine from the middle of one crossing to the next. */
function rise(along: number, over: (crossing: number) => boolean, count: number): number {
  const from = Math.floor(along - 0.5)
  const at = (n: number): number => (over(floorMod(n, count)) ? 1 : -1)
  const t = along - 0.5 - from
  const eased = 0.5 - 0.5 * cosTurns(t / 2)
  return at(from) + (at(from + 1) - at(from)) * eased
}

/** Height of a thread's top: its rise, and the round of its section. */
function heightOf(
  { roundness, wave }: { roundness: number; wave: number },
  inside: number,
  t: number,
  z: number,
): number {
  const section = Math.sqrt(Math.max(0, 1 - t * t))
  const round = 1 - roundness + roundness * section
  return inside * (0.5 * wave * (0.5 + 0.5 * z) + (1 - 0.5 * wave) * (0.35 + 0.65 * round))
}
