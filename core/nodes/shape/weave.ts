import { floorMod, rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, number, pair } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { cosTurns } from '../../elementary'
import { coverage } from '../../kernels/point'

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
  keywords: ['cloth', 'fabric', 'canvas', 'textile', 'linen', 'wicker', 'threads', 'basketry'],
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
      softRange: [4, 64],
      whole: true,
      unit: 'cells',
      help: 'Warp threads across, weft threads down. Snapped so that the weave closes.',
    }),
    gap: number({
      default: 0.1,
      min: 0,
      max: 0.9,
      softRange: [0, 0.5],
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
  footprint: 'point',
  notes: ({ weave, threads }) => {
    const { cycle } = WEAVES[weave]
    return [`Woven of ${snapped(threads[0], cycle)} warp and ${snapped(threads[1], cycle)} weft threads.`]
  },
  evaluate: (_, params, { height, warp, thread }, { width, rows }) => {
    const some = height ?? warp ?? thread
    if (!some) return
    const { cycle, over } = WEAVES[params.weave]
    const [across, down] = [snapped(params.threads[0], cycle), snapped(params.threads[1], cycle)]
    const half = (1 - params.gap) / 2
    const warps = threadsAlong(width, across, half)
    const wefts = threadsAlong(some.height, down, half)
    const within = Array.from({ length: cycle }, (_, n) => n)
    // A warp rises and sinks as it crosses the wefts, a weft as it crosses the warps.
    const weftRises = within.map((j) =>
      Float64Array.from({ length: width }, (_, x) => eased(warps, x, cycle, (n) => !over(n, j))),
    )
    const [tops, seen, covers] = [height?.planes[0], warp?.planes[0], thread?.planes[0]]
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const start = rowStart(some, y)
      const v = floorMod(y, some.height)
      const warpRises = within.map((i) => eased(wefts, v, cycle, (n) => over(i, n)))
      const weftRise = weftRises[wefts.thread[v]! % cycle]!
      const [weftCover, weftSection] = [wefts.cover[v]!, wefts.section[v]!]
      for (let x = 0; x < width; x++) {
        const warpCover = warps.cover[x]!
        const warpTop = heightOf(params, warpCover, warps.section[x]!, warpRises[warps.thread[x]! % cycle]!)
        const weftTop = heightOf(params, weftCover, weftSection, weftRise[x]!)
        if (tops) tops[start + x] = Math.max(warpTop, weftTop)
        if (seen) seen[start + x] = warpTop > weftTop ? 1 : 0
        if (covers) covers[start + x] = Math.max(warpCover, weftCover)
      }
    }
  },
  example: { params: { weave: 'twill', threads: [12, 12], gap: 0.15 } },
})

/** What each texel along an axis knows of the threads that cross it. */
interface Threads {
  /** The thread it lies on or beside. */
  readonly thread: Int32Array
  /** How much of it the thread covers, and the height of a round section there. */
  readonly cover: Float64Array
  readonly section: Float64Array
  /** The middle of a crossing before it, and how far it is to the next, eased by a cosine. */
  readonly from: Int32Array
  readonly weight: Float64Array
}

function threadsAlong(texels: number, count: number, half: number): Threads {
  const place = Float64Array.from({ length: texels }, (_, i) => ((i + 0.5) / texels) * count)
  const aside = place.map((v) => v - Math.floor(v) - 0.5)
  return {
    thread: Int32Array.from(place, (v) => Math.floor(v)),
    cover: aside.map((d) => coverage(half - Math.abs(d), count / texels)),
    section: aside.map((d) => Math.sqrt(Math.max(0, 1 - (d / half) * (d / half)))),
    from: Int32Array.from(place, (v) => floorMod(Math.floor(v - 0.5), count)),
    weight: place.map((v) => 0.5 - 0.5 * cosTurns((v - 0.5 - Math.floor(v - 0.5)) / 2)),
  }
}

/** −1 under, 1 over, along a thread at a texel. Counts are multiples of the cycle, so crossings may be taken within it. */
function eased({ from, weight }: Threads, at: number, cycle: number, over: (crossing: number) => boolean): number {
  const n = from[at]! % cycle
  const before = over(n) ? 1 : -1
  const after = over((n + 1) % cycle) ? 1 : -1
  return before === after ? before : before + (after - before) * weight[at]!
}

/** Height of a thread's top: its rise, and the round of its section. */
function heightOf(
  { roundness, wave }: { roundness: number; wave: number },
  cover: number,
  section: number,
  z: number,
): number {
  const round = 1 - roundness + roundness * section
  return cover * (0.5 * wave * (0.5 + 0.5 * z) + (1 - 0.5 * wave) * (0.35 + 0.65 * round))
}
