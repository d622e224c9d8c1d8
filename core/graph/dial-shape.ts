import type { DialShape } from '../document/edits/dials'
import type { Parameter } from './parameters'

export const UNIT_WORDS = { tile: 'tile', turn: 'turn', metre: 'm', cells: 'cells' } as const

/** The dial that suits a parameter; null where its kind has no dial. */
export function shapeOf(name: string, parameter: Parameter): DialShape | null {
  const [min, max] = parameter.softRange ?? [parameter.min, parameter.max]
  const unit = parameter.unit && UNIT_WORDS[parameter.unit]
  if (parameter.kind === 'integer' && name === 'seed') return { kind: 'seed', min: 0, max: 4294967295 }
  if (parameter.kind === 'number' || parameter.kind === 'channels' || parameter.kind === 'pair')
    return { kind: 'number', min, max, unit }
  if (parameter.kind === 'integer') return { kind: 'whole', min, max, unit }
  if (parameter.kind === 'choice') return { kind: 'choice', options: parameter.options }
  if (parameter.kind === 'toggle') return { kind: 'switch' }
  return parameter.kind === 'colour' || parameter.kind === 'image' ? { kind: parameter.kind } : null
}
