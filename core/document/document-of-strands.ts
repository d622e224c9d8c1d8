import type { MaterialDocument } from './document'
import { simpleRatio } from './simple-ratio'
import { parseDocument } from './document'
import { DOCUMENT_VERSION } from './upgrade'
import root from './optional/root'
import tip from './optional/tip'
import tone from './optional/tone'

export interface StrandMask {
  /** As documents name it. */
  readonly image: string
  readonly name: string
  readonly width: number
  readonly height: number
  /** Where its cut-out lies: in its alpha, or in its brightness. */
  readonly isInAlpha: boolean
}

/** Texels of a strand’s local place run from its top; these are how far its tones reach, as shares of it. */
const REACH = { root: 0.55, tip: 0.3 }

/**
 * A material for strand cards of one cut-out mask, white where strands are, roots below: opacity as a grey of its own, each strand that
 * touches no other with a tone of its own, root and tip gradients that run along it and are frayed by noise drawn along it, a round
 * profile across it, shade at the roots. Its tones are neutral: a renderer mixes them by the packing “strands”. Throws document-invalid.
 */
export function documentOfStrands({ image, name, width, height, isInAlpha }: StrandMask): MaterialDocument {
  const own = ({ title, backdrop }: typeof root) => ({ title, type: 'grey', backdrop })
  const number = (id: string, label: string, [min, max, value]: readonly number[], drives: readonly object[]) => ({
    ...{ id, label, kind: 'number', min, max, default: value, value, drives },
  })
  return parseDocument({
    format: 'amber-grist/material',
    version: DOCUMENT_VERSION,
    name,
    domain: { kind: 'tile', metres: [0.5, 0.5 * simpleRatio(width, height)] },
    heightMetres: 0.004,
    occlusion: { radiusMetres: 0.01, strength: 0.6 },
    surface: { light: 'lit', opacity: 'cut-out', sides: 'two' },
    channels: { [root.id]: own(root), [tip.id]: own(tip), [tone.id]: own(tone) },
    nodes: {
      picture: {
        type: 'image',
        name: name.slice(0, 60),
        params: { image, encoding: 'raw', alpha: 'premultiplied', ground: '#000000' },
        at: [0, 0],
      },
      cut: {
        type: 'levels',
        name: 'Cut-out',
        params: { low: 0.35, high: 0.65, clamp: true },
        inputs: { source: isInAlpha ? 'picture.alpha' : 'picture.stored' },
        at: [480, 0],
      },
      strands: {
        type: 'regions',
        name: 'Single strands',
        params: { corners: true },
        inputs: { source: 'cut.result' },
        at: [720, 0],
      },
      place: { type: 'split', name: 'Along a strand', inputs: { source: 'strands.local' }, at: [960, 160] },
      streaks: {
        type: 'noise',
        name: 'Streaks',
        params: { cells: [96, 12], octaves: 3 },
        at: [480, 320],
      },
      drawn: {
        type: 'directional-blur',
        name: 'Drawn along strands',
        params: { length: 0.12, angle: 0.25 },
        inputs: { source: 'streaks.grey' },
        at: [720, 320],
      },
      fray: {
        type: 'math',
        name: 'Fray',
        params: { operation: 'multiply', b: 0.35 },
        inputs: { a: 'drawn.result' },
        at: [960, 320],
      },
      down: {
        type: 'math',
        name: 'Down, frayed',
        params: { operation: 'add' },
        inputs: { a: 'place.second', b: 'fray.result' },
        at: [1200, 160],
      },
      roots: {
        type: 'levels',
        name: 'Roots',
        params: { low: 1.175 - REACH.root, high: 1.175, clamp: true },
        inputs: { source: 'down.result' },
        at: [1440, 160],
      },
      up: { type: 'invert', name: 'Up a strand', inputs: { source: 'place.second' }, at: [1200, 320] },
      upward: {
        type: 'math',
        name: 'Up, frayed',
        params: { operation: 'add' },
        inputs: { a: 'up.result', b: 'fray.result' },
        at: [1440, 320],
      },
      tips: {
        type: 'levels',
        name: 'Tips',
        params: { low: 1.175 - REACH.tip, high: 1.175, clamp: true },
        inputs: { source: 'upward.result' },
        at: [1680, 320],
      },
      within: {
        type: 'math',
        name: 'Tips on strands alone',
        params: { operation: 'multiply' },
        inputs: { a: 'tips.result', b: 'cut.result' },
        at: [1920, 320],
      },
      spread: {
        type: 'levels',
        name: 'Tone of each strand',
        params: { outLow: 0.1, outHigh: 0.9 },
        inputs: { source: 'strands.value' },
        at: [1200, 0],
      },
      inside: {
        type: 'distance',
        name: 'How far inside',
        params: { range: 0.012 },
        inputs: { source: 'cut.result' },
        at: [720, 480],
      },
      round: {
        type: 'math',
        name: 'Round across',
        params: { operation: 'power', b: 0.6 },
        inputs: { a: 'inside.depth' },
        at: [960, 480],
      },
      shade: {
        type: 'levels',
        name: 'Shade at the roots',
        params: { outLow: 1, outHigh: 0.45 },
        inputs: { source: 'roots.result' },
        at: [1680, 160],
      },
    },
    layers: [
      {
        kind: 'layer',
        id: 'strands',
        name: 'Strands',
        cells: {
          colour: { source: { value: '#b0aaa0' } },
          opacity: { source: { node: 'cut.result' } },
          height: { source: { node: 'round.result' } },
          roughness: { source: { value: 0.6 } },
          occlusion: { source: { node: 'shade.result' } },
          [root.id]: { source: { node: 'roots.result' } },
          [tip.id]: { source: { node: 'within.result' } },
          [tone.id]: { source: { node: 'spread.result' } },
        },
      },
    ],
    dials: [
      number(
        'root-reach',
        'Reach of roots',
        [0.05, 1, REACH.root],
        [{ node: 'roots', field: 'low', scale: -1, offset: 1.175 }],
      ),
      number(
        'tip-reach',
        'Reach of tips',
        [0.05, 1, REACH.tip],
        [{ node: 'tips', field: 'low', scale: -1, offset: 1.175 }],
      ),
      number('fray', 'Fray', [0, 1, 0.35], [{ node: 'fray', field: 'b' }]),
      number(
        'spread',
        'Spread of tones',
        [0, 1, 0.8],
        [
          { node: 'spread', field: 'outLow', scale: -0.5, offset: 0.5 },
          { node: 'spread', field: 'outHigh', scale: 0.5, offset: 0.5 },
        ],
      ),
      number('round', 'Width of the round', [0.002, 0.06, 0.012], [{ node: 'inside', field: 'range' }]),
    ],
  })
}
