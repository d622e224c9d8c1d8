import { channelOutput } from '#core/document/address'
import { Pyramids } from '#core/engine/pyramids'
import { openMaterial } from '#core/material/session'
import { encodeSrgb } from '#core/colour/srgb'
import { localExecutor } from '#core/engine/local-executor'
import { parseDocument } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'
import type { MadeImage } from './made-image'

const SIZE = 768

/** Pieces of one size: how many a side, what share of places has one, how high they rise, and their tones. */
interface Pieces {
  readonly name: string
  readonly cells: number
  readonly share: number
  readonly rise: number
  readonly tones: readonly string[]
}

/** From dust to shells: each size is about half of the next one across, and about twice as common (a power law). */
const SIZES: readonly Pieces[] = [
  { name: 'dust', cells: 128, share: 0.8, rise: 0.1, tones: ['#5f5546', '#8f8269', '#a99b80', '#796c58'] },
  { name: 'grit', cells: 72, share: 0.55, rise: 0.2, tones: ['#4a443c', '#8d8171', '#b3a58c', '#6d6253', '#9a8c76'] },
  {
    name: 'gravel',
    cells: 38,
    share: 0.36,
    rise: 0.34,
    tones: ['#5a544b', '#a3968a', '#c3b7a3', '#7d7264', '#8b7f70'],
  },
  { name: 'shard', cells: 21, share: 0.22, rise: 0.5, tones: ['#8f8779', '#d3cab8', '#b5a48b', '#ddd6c6', '#6f675d'] },
  { name: 'shell', cells: 11, share: 0.1, rise: 0.62, tones: ['#bfb5a2', '#e2dbcc', '#a79780', '#cfc5b5'] },
]

/** Broken pieces: the cells of a mosaic that are kept, each rounded towards its border and of one tone, uneven within. */
const piecesOf = ({ name, cells, share, rise, tones }: Pieces, seed: number) => {
  const bent = (source: string) => ({
    type: 'warp',
    params: { along: 'slope', strength: 0.05 / cells, steepness: cells / 3 },
    inputs: { source, driver: `${name}Noise.grey` },
  })
  return {
    [`${name}Cells`]: { type: 'cells', params: { cells: [cells, cells], seed } },
    [`${name}Noise`]: { type: 'noise', params: { cells: [cells * 2, cells * 2], octaves: 2, gain: 0.4, seed } },
    [`${name}Border`]: bent(`${name}Cells.border`),
    [`${name}Value`]: bent(`${name}Cells.value`),
    // Another number of the same pieces tells which are there.
    [`${name}Kept`]: {
      type: 'threshold',
      params: { level: 1 - share, softness: 0 },
      inputs: { source: `${name}Value.result` },
    },
    [`${name}Inside`]: {
      type: 'threshold',
      params: { level: 0.1, softness: 0.05 },
      inputs: { source: `${name}Border.result` },
    },
    [`${name}Mask`]: {
      type: 'blend',
      params: { mode: 'multiply' },
      inputs: { base: `${name}Kept.result`, source: `${name}Inside.result` },
    },
    [`${name}Dome`]: {
      type: 'levels',
      params: { low: 0.06, high: 0.42, gamma: 1.7 },
      inputs: { source: `${name}Border.result` },
    },
    [`${name}Height`]: {
      type: 'remap',
      params: { toLow: 0.2, toHigh: 0.2 + rise, clamp: true },
      inputs: { source: `${name}Dome.result` },
    },
    [`${name}Which`]: {
      type: 'remap',
      params: { fromLow: 1 - share, clamp: true },
      inputs: { source: `${name}Value.result` },
    },
    [`${name}Tone`]: {
      type: 'gradient-remap',
      params: { stops: tones.map((colour, i) => ({ at: i / (tones.length - 1), colour })) },
      inputs: { source: `${name}Which.result` },
    },
    [`${name}Grain`]: {
      type: 'remap',
      params: { fromLow: 0.2, fromHigh: 0.8, toLow: 0.82, toHigh: 1.05 },
      inputs: { source: `${name}Noise.grey` },
    },
    [`${name}Uneven`]: {
      type: 'blend',
      params: { mode: 'multiply' },
      inputs: { base: `${name}Tone.result`, source: `${name}Grain.result` },
    },
    [`${name}Shade`]: {
      type: 'remap',
      params: { toLow: 0.66, toHigh: 1.04 },
      inputs: { source: `${name}Dome.result` },
    },
    [`${name}Shaded`]: {
      type: 'blend',
      params: { mode: 'multiply' },
      inputs: { base: `${name}Uneven.result`, source: `${name}Shade.result` },
    },
  }
}

/** A ground of broken shell and grit as a camera would see it under an even sky: dark where pieces meet. */
const groundOf = (seed: number) =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'Shell grit, a scan',
    seed,
    domain: { kind: 'tile', metres: [0.6, 0.6] },
    heightMetres: 0.02,
    nodes: {
      sand: { type: 'noise', params: { cells: [150, 150], octaves: 3, gain: 0.7, seed } },
      drift: { type: 'noise', params: { cells: [4, 4], octaves: 4, seed: seed + 1 } },
      mix: { type: 'math', params: { operation: 'lerp', c: 0.4 }, inputs: { a: 'sand.grey', b: 'drift.grey' } },
      sandTone: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0.25, colour: '#5d5140' },
            { at: 0.5, colour: '#86785e' },
            { at: 0.75, colour: '#aa9c80' },
          ],
        },
        inputs: { source: 'mix.result' },
      },
      floor: { type: 'remap', params: { toLow: 0.12, toHigh: 0.28 }, inputs: { source: 'mix.result' } },
      open: {
        type: 'height-to-occlusion',
        params: { radius: 0.016, strength: 1.15 },
        inputs: { height: { backdrop: 'height' } },
      },
      ...Object.assign({}, ...SIZES.map((pieces, i) => piecesOf(pieces, seed + 10 * i))),
    },
    layers: [
      {
        kind: 'layer',
        id: 'ground',
        name: 'Sand',
        cells: { colour: { source: { node: 'sandTone.result' } }, height: { source: { node: 'floor.result' } } },
      },
      ...SIZES.map(({ name }) => ({
        kind: 'layer',
        id: name,
        name,
        mask: [{ source: { node: `${name}Mask.result` } }],
        cells: {
          colour: { source: { node: `${name}Shaded.result` } },
          height: { source: { node: `${name}Height.result` } },
        },
      })),
      {
        kind: 'layer',
        id: 'light',
        name: 'Less light where pieces meet',
        cells: { colour: { source: { node: 'open.occlusion' }, blend: 'multiply', amount: 0.85 } },
      },
    ],
  })

const scan = (file: string, seed: number): MadeImage => ({
  file,
  width: SIZE,
  height: SIZE,
  channels: 3,
  make: async () => {
    const executor = localExecutor(registry)
    const images = { load: () => Promise.reject(new Error('a scan is made without images')) }
    const pyramids = new Pyramids(images, executor.allocate)
    const { fields } = await openMaterial(groundOf(seed), registry, { executor, pyramids }).evaluate({
      outputs: [channelOutput('colour')],
      width: SIZE,
    })
    const { planes } = fields.get('colour')!
    return Uint8Array.from({ length: SIZE * SIZE * 3 }, (_, i) =>
      Math.round(255 * Math.min(1, Math.max(0, encodeSrgb(planes[i % 3]![Math.floor(i / 3)]!)))),
    )
  },
})

/** Two scans of one path. */
export const shellGritScans = [scan('shell-grit-1.png', 101), scan('shell-grit-2.png', 202)]
