import type { MaterialDocument } from './document'
import { simpleRatio } from './simple-ratio'
import { parseDocument } from './document'
import { DOCUMENT_VERSION } from './upgrade'

export interface Picture {
  /** As documents name it. */
  readonly image: string
  readonly name: string
  readonly width: number
  readonly height: number
  /** A grey picture is a mask or a bump: it gives relief, and no colour. */
  readonly isGrey: boolean
}

/**
 * A layered material of one picture, to go on from: its edges closed so that it repeats, relief from its brightness with chosen colours turned
 * the other way, roughness, worn edges, and a range of its colours that can be treated by itself. What of this fits is to be judged by
 * eye: one picture does not tell it. Light in the picture stays in it. Throws document-invalid.
 */
export function documentOfPicture({ image, name, width, height, isGrey }: Picture): MaterialDocument {
  const picture = 'closed.result'
  return parseDocument({
    format: 'amber-grist/material',
    version: DOCUMENT_VERSION,
    name,
    domain: { kind: 'tile', metres: [1, simpleRatio(width, height)] },
    heightMetres: 0.02,
    nodes: {
      picture: {
        type: 'image',
        name: name.slice(0, 60),
        params: { image, encoding: isGrey ? 'raw' : 'srgb', alpha: 'premultiplied', ground: '#808080' },
        at: [0, 0],
      },
      closed: {
        type: 'close-edges',
        name: 'Edges closed',
        inputs: { source: isGrey ? 'picture.stored' : 'picture.colour' },
        at: [240, 0],
      },
      turned: {
        type: 'colour-mask',
        name: 'Colours turned over',
        params: { centre: '#000000', tolerance: 0, softness: 0 },
        inputs: { source: picture },
        at: [480, 160],
      },
      polarity: { type: 'invert', name: 'Polarity', inputs: { source: 'turned.mask' }, at: [720, 160] },
      relief: {
        type: 'image-to-normal',
        name: 'Relief',
        inputs: { source: picture, polarity: 'polarity.result' },
        at: [960, 0],
      },
      ...(isGrey
        ? {}
        : { brightness: { type: 'to-grey', name: 'Brightness', inputs: { source: picture }, at: [480, 320] } }),
      tone: {
        type: 'levels',
        name: 'Roughness from brightness',
        params: { outLow: 0.9, outHigh: 0.6 },
        inputs: { source: isGrey ? picture : 'brightness.result' },
        at: [720, 320],
      },
      bends: {
        type: 'curvature',
        name: 'Bends',
        params: { radius: 0.006, strength: 1 },
        inputs: { height: 'relief.height' },
        at: [1200, 160],
      },
      edges: {
        type: 'levels',
        name: 'Raised edges',
        params: { low: 0.55, high: 0.8 },
        inputs: { source: 'bends.curvature' },
        at: [1440, 160],
      },
      range: {
        type: 'colour-mask',
        name: 'Range of colours',
        params: { centre: '#8a8578', tolerance: 0.06, softness: 0.05 },
        inputs: { source: picture },
        at: [480, 480],
      },
    },
    layers: [
      {
        kind: 'layer',
        id: 'picture',
        name: name.slice(0, 60),
        cells: {
          colour: { source: isGrey ? { value: '#8f8a80' } : { node: picture } },
          height: { source: { node: 'relief.height' } },
          roughness: { source: { node: 'tone.result' } },
        },
      },
      {
        kind: 'layer',
        id: 'edges',
        name: 'Worn edges',
        amount: 0.4,
        mask: [{ source: { node: 'edges.result' } }],
        cells: { roughness: { source: { value: 0.45 } } },
      },
      {
        kind: 'layer',
        id: 'range',
        name: 'Range of colours',
        off: true,
        mask: [{ source: { node: 'range.mask' } }],
        cells: { roughness: { source: { value: 0.35 } } },
      },
    ],
    dials: [
      number('relief', 'Relief', { min: 0, max: 4, value: 1 }, 'relief', 'strength'),
      number('size', 'Largest forms', { min: 0.005, max: 0.12, value: 0.04 }, 'relief', 'size'),
      number('grain', 'Grain', { min: 0, max: 2, value: 0.5 }, 'relief', 'fine'),
      ...range('turned', 'Colours turned over', { colour: '#000000', reach: 0 }),
      ...range('range', 'Range of colours', { colour: '#8a8578', reach: 0.06 }),
    ],
  })
}

const number = (
  id: string,
  label: string,
  { min, max, value }: { min: number; max: number; value: number },
  node: string,
  field: string,
) => ({ id, label, kind: 'number', min, max, default: value, value, drives: [{ node, field }] })

/** What a mask of colours looks for, and how near. */
function range(node: string, section: string, { colour, reach }: { colour: string; reach: number }) {
  const drives = [{ node, field: 'centre' }]
  return [
    { id: `${node}-colour`, label: 'Colour', section, kind: 'colour', default: colour, value: colour, drives },
    { ...number(`${node}-reach`, 'How near', { min: 0, max: 0.4, value: reach }, node, 'tolerance'), section },
  ]
}
