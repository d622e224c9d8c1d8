import { hexToLinear } from '../colour/srgb'
import type { PortType } from '../field/field'
import type { MaterialDocument } from './document'

/** One channel of a material: what it carries and what lies below the lowest layer. */
export interface Channel {
  readonly id: string
  readonly title: string
  readonly type: Extract<PortType, 'grey' | 'colour' | 'normal'>
  /** A value a plane; colours in linear light. */
  readonly below: readonly number[]
  /** How files store it: colours sRGB-encoded, everything else as it is. */
  readonly transfer: 'srgb' | 'raw'
  /** Values a delivery is expected to keep to. */
  readonly range: readonly [number, number]
}

// Linear light of sRGB 0.5 (IEC 61966-2-1).
const MID = 0.21404114048223255

/** The channels every material has, in the order they are shown. */
export const CHANNELS: readonly Channel[] = [
  { id: 'colour', title: 'Base colour', type: 'colour', below: [MID, MID, MID], transfer: 'srgb', range: [0, 1] },
  { id: 'height', title: 'Height', type: 'grey', below: [0.5], transfer: 'raw', range: [0, 1] },
  { id: 'roughness', title: 'Roughness', type: 'grey', below: [0.5], transfer: 'raw', range: [0, 1] },
  { id: 'metallic', title: 'Metallic', type: 'grey', below: [0], transfer: 'raw', range: [0, 1] },
  { id: 'normal', title: 'Normal', type: 'normal', below: [0, 0, 1], transfer: 'raw', range: [-1, 1] },
  { id: 'occlusion', title: 'Occlusion', type: 'grey', below: [1], transfer: 'raw', range: [0, 1] },
  { id: 'opacity', title: 'Opacity', type: 'grey', below: [1], transfer: 'raw', range: [0, 1] },
  { id: 'emission', title: 'Emission', type: 'colour', below: [0, 0, 0], transfer: 'srgb', range: [0, 1] },
]

/** All channels of a document: the fixed ones, then its own by title, as a database keeps no order of members. */
export function channelsOf(document: Pick<MaterialDocument, 'channels'>): Channel[] {
  const own = Object.entries(document.channels).map(([id, { title, type, below }]): Channel => {
    const values = typeof below === 'string' ? hexToLinear(below) : [below]
    const planes = type === 'colour' ? [0, 1, 2].map((p) => values[p] ?? values[0]!) : [values[0]!]
    return { id, title: title ?? id, type, below: planes, transfer: type === 'colour' ? 'srgb' : 'raw', range: [0, 1] }
  })
  own.sort((a, b) => (a.title < b.title ? -1 : a.title > b.title ? 1 : a.id < b.id ? -1 : 1))
  return [...CHANNELS, ...own]
}
