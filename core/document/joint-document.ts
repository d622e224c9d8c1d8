import { GristError } from '../errors'
import { channelsOf } from './channels'
import type { MaterialDocument } from './document'

/**
 * What several materials have in common where they share texels: the first with the channels of all, the largest depth and strength;
 * cut out where one of them is. Throws packing-invalid where two have a channel of one name that hold different things.
 */
export function jointDocument(documents: readonly MaterialDocument[]): MaterialDocument {
  const [first] = documents as [MaterialDocument]
  const types = new Map<string, string>()
  for (const document of documents)
    for (const { id, title, type } of channelsOf(document)) {
      if (types.has(id) && types.get(id) !== type)
        throw new GristError(
          'packing-invalid',
          `The materials that lie together have a channel “${title}” each that hold different things: ${types.get(id)} and ${type}.`,
          { document: document.name },
        )
      types.set(id, type)
    }
  const cut = documents.find(({ surface }) => surface.opacity === 'cut-out')
  return {
    ...first,
    channels: Object.assign({}, ...documents.map(({ channels }) => channels).reverse()) as MaterialDocument['channels'],
    heightMetres: Math.max(...documents.map(({ heightMetres }) => heightMetres)),
    emissionStrength: Math.max(...documents.map(({ emissionStrength }) => emissionStrength)),
    surface: cut ? { ...first.surface, opacity: 'cut-out' } : first.surface,
  }
}

/** What heights (about the surface) and emission of a material are multiplied with in one that several have in common. */
export interface JointScales {
  readonly height: number
  readonly emission: number
}

const ratio = (own: number, all: number): number => (all > 0 ? own / all : 1)

export const jointScales = (own: MaterialDocument, all: MaterialDocument): JointScales => ({
  height: ratio(own.heightMetres, all.heightMetres),
  emission: ratio(own.emissionStrength, all.emissionStrength),
})
