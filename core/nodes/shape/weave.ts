import { defineNode } from '../../graph/define-node'
import { choice, number, pair } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { WEAVES, weaveRows } from '../../kernels/weave'

const snapped = (wanted: number, cycle: number): number => Math.max(1, Math.round(wanted / cycle)) * cycle

/** Threads over and under each other (kernels/weave.ts). */
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
  presets: [
    { title: 'Linen', keywords: ['plain', 'canvas'], params: { weave: 'plain', threads: [32, 32], gap: 0.15 } },
    { title: 'Twill', keywords: ['denim', 'diagonal'], params: { weave: 'twill', threads: [32, 32] } },
    { title: 'Satin', keywords: ['silk', 'smooth'], params: { weave: 'satin', threads: [40, 40], gap: 0.02 } },
  ],
  notes: ({ weave, threads }) => {
    const { cycle } = WEAVES[weave]
    return [`Woven of ${snapped(threads[0], cycle)} warp and ${snapped(threads[1], cycle)} weft threads.`]
  },
  evaluate: (_, { weave, threads, gap, roundness, wave }, out, { rows }) => {
    const { cycle } = WEAVES[weave]
    const snappedThreads = [snapped(threads[0], cycle), snapped(threads[1], cycle)] as const
    weaveRows({ weave, threads: snappedThreads, half: (1 - gap) / 2, roundness, wave }, out, rows)
  },
  example: { params: { weave: 'twill', threads: [12, 12], gap: 0.15 } },
})
