import type { MaterialDocument } from '../document'
import { allLayers } from '../document'

const PLAIN = /[^A-Za-z0-9_-]+/g

/** A word fit for an id: letters, digits and dashes of `text`, or `fallback` where nothing is left. */
export function idFrom(text: string, fallback: string): string {
  const word = text
    .toLowerCase()
    .replace(PLAIN, '-')
    .replace(/^[^a-z]+|-+$/g, '')
    .slice(0, 40)
  return word === '' ? fallback : word
}

/** `wanted`, or it with the first number that makes it new. */
export function freeId(wanted: string, taken: (id: string) => boolean): string {
  if (!taken(wanted)) return wanted
  const stem = wanted.replace(/-?\d+$/, '')
  for (let n = 2; ; n++) if (!taken(`${stem}-${n}`)) return `${stem}-${n}`
}

export const freeNodeId = (document: MaterialDocument, wanted: string): string =>
  freeId(wanted, (id) => Object.hasOwn(document.nodes, id))

export function freeLayerId(document: MaterialDocument, wanted: string): string {
  const ids = new Set([...allLayers(document.layers)].map((layer) => layer.id))
  return freeId(wanted, (id) => ids.has(id))
}

/** A name with a number behind it that none of `names` has. */
export function freeName(wanted: string, names: readonly string[]): string {
  if (!names.includes(wanted)) return wanted
  const stem = wanted.replace(/ \d+$/, '')
  for (let n = 2; ; n++) if (!names.includes(`${stem} ${n}`)) return `${stem} ${n}`
}
