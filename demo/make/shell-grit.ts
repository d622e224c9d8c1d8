import { channelOutput } from '#core/document/address'
import { Pyramids } from '#core/engine/pyramids'
import { openMaterial } from '#core/material/session'
import { encodeSrgb } from '#core/colour/srgb'
import { localExecutor } from '#core/engine/local-executor'
import { parseDocument } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'
import type { MadeImage } from './made-image'

const SIZE = 768

/** A ground of broken shell and grit as a camera would see it: pieces of three sizes over sand, each with its shadow. */
const groundOf = (seed: number) => {
  const pieces = (
    name: string,
    cells: number,
    density: number,
    size: [number, number],
    tones: string[],
    n: number,
  ) => ({
    [`${name}Spots`]: {
      type: 'spots',
      params: { cells: [cells, cells], density, size, softness: 0.12, seed: seed + n },
    },
    [`${name}Shape`]: {
      type: 'warp',
      params: { along: 'slope', strength: 0.14 / cells, steepness: cells / 2 },
      inputs: { source: `${name}Spots.grey`, driver: `${name}Noise.grey` },
    },
    [`${name}Value`]: {
      type: 'warp',
      params: { along: 'slope', strength: 0.14 / cells, steepness: cells / 2 },
      inputs: { source: `${name}Spots.value`, driver: `${name}Noise.grey` },
    },
    [`${name}Noise`]: { type: 'noise', params: { cells: [cells * 2, cells * 2], octaves: 2, seed: seed + n } },
    [`${name}Tone`]: {
      type: 'gradient-remap',
      params: { stops: tones.map((colour, i) => ({ at: i / (tones.length - 1), colour })) },
      inputs: { source: `${name}Value.result` },
    },
    [`${name}Round`]: {
      type: 'edges',
      params: { width: 0.12 / cells, strength: 0.5 },
      inputs: { source: `${name}Shape.result` },
    },
  })
  const layer = (name: string, shade: string) => [
    {
      kind: 'layer',
      id: `${name}Shadow`,
      name: `${name} shadow`,
      amount: 0.7,
      mask: [{ source: { node: `${name}Round.edges` } }],
      cells: { colour: { source: { value: shade }, blend: 'multiply' } },
    },
    {
      kind: 'layer',
      id: name,
      name,
      mask: [
        { source: { node: `${name}Shape.result` } },
        { source: { node: 'sand.grey' }, mode: 'overlay', amount: 0.3 },
      ],
      cells: { colour: { source: { node: `${name}Tone.result` } } },
    },
  ]
  return parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'Shell grit, a scan',
    seed,
    domain: { kind: 'tile', metres: [0.6, 0.6] },
    nodes: {
      sand: { type: 'noise', params: { cells: [120, 120], octaves: 3, gain: 0.7, seed } },
      drift: { type: 'noise', params: { cells: [4, 4], octaves: 4, seed: seed + 1 } },
      mix: { type: 'math', params: { operation: 'lerp', c: 0.45 }, inputs: { a: 'sand.grey', b: 'drift.grey' } },
      sandTone: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0.25, colour: '#6d604c' },
            { at: 0.5, colour: '#958669' },
            { at: 0.75, colour: '#bcae8f' },
          ],
        },
        inputs: { source: 'mix.result' },
      },
      ...pieces('grit', 90, 0.6, [0.3, 1], ['#4d463d', '#8d8171', '#b9ab92', '#75685a'], 10),
      ...pieces('shard', 34, 0.55, [0.35, 1.15], ['#8f8779', '#d8cfbd', '#b5a48b', '#e7e1d2', '#6f675d'], 20),
      ...pieces('shell', 13, 0.4, [0.4, 1.1], ['#cfc5b2', '#efe9dc', '#a79780', '#ddd3c4'], 30),
    },
    layers: [
      { kind: 'layer', id: 'ground', name: 'Sand', cells: { colour: { source: { node: 'sandTone.result' } } } },
      ...layer('grit', '#4b4135'),
      ...layer('shard', '#4b4135'),
      ...layer('shell', '#3f362c'),
    ],
  })
}

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
