import type { MaterialDocument } from '#core/document/document'
import { allLayers } from '#core/document/document'

/** A place of a document in words: "Layer Moss, roughness: amount". Names are looked up in the first document that has them. */
export function clashPlace(path: readonly string[], ...documents: readonly MaterialDocument[]): string {
  const [kind, id, ...rest] = path
  const name = nameOf(kind!, id, documents)
  const members = rest.map((key) => MEMBERS[key] ?? key).filter((key) => key !== '')
  const words = (start: string): string => (members.length ? `${start}: ${members.join(' ')}` : start)
  if (kind === 'layers')
    return rest[0] === 'order' ? (id ? `Order in ${name}` : 'Order of layers') : words(`Layer ${name}`)
  if (kind === 'dials') return rest[0] === 'order' ? 'Order of dials' : words(`Dial ${name}`)
  if (kind === 'nodes') return words(`Node ${name}`)
  if (kind === 'taps') return `Named result ${id}`
  return path.join(' ')
}

const MEMBERS: Record<string, string> = { params: '', cells: '', inputs: 'input', place: 'group it lies in' }

function nameOf(kind: string, id: string | undefined, documents: readonly MaterialDocument[]): string {
  for (const { layers, dials, nodes } of documents) {
    const found =
      kind === 'layers'
        ? [...allLayers(layers)].find((one) => one.id === id)?.name
        : kind === 'dials'
          ? dials.find((one) => one.id === id)?.label
          : kind === 'nodes' && id !== undefined && Object.hasOwn(nodes, id)
            ? (nodes[id]!.name ?? id)
            : undefined
    if (found !== undefined) return found
  }
  return id ?? ''
}

/** A value in a few words. */
export function clashValue(value: unknown): string {
  if (value === undefined) return 'deleted'
  if (typeof value === 'number') return String(Number(value.toPrecision(6)))
  if (typeof value === 'string') return value === '' ? 'the top' : value
  return JSON.stringify(value)
}
