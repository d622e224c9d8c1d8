import type { MaterialDocument, Source } from '#core/document/document'
import { addNode, connect } from '#core/document/edits/nodes'
import { registry } from '#core/nodes/registry.generated'

/** An entry of a mask that is ready made: what it is called, what it is for, and its nodes. Gives what is read. */
export interface ReadyMask {
  readonly word: string
  readonly about: string
  build(draft: MaterialDocument): Source
}

const BELOW_HEIGHT: Source = { backdrop: 'height' }

/** Adds a node that reads `source` by its first input, with these parameters. Gives its first output, or the one named. */
function added(
  draft: MaterialDocument,
  type: string,
  params: Record<string, unknown>,
  source?: Source,
  output?: string,
): Source {
  const node = registry.get(type)!
  const id = addNode(draft, node, undefined, params)
  if (source) connect(draft, id, Object.keys(node.inputs)[0]!, source)
  return { node: `${id}.${output ?? Object.keys(node.outputs)[0]!}` }
}

/** A range of values as a mask: from black to white between two of them. */
const range = (draft: MaterialDocument, source: Source, low: number, high: number): Source =>
  added(draft, 'levels', { low, high }, source)

/** What masks are mostly made of; all that read the surface read what lies below the layer. */
export const READY_MASKS: readonly ReadyMask[] = [
  {
    word: 'Noise break-up',
    about: 'ragged patches',
    build: (draft) =>
      added(draft, 'threshold', { level: 0.5, softness: 0.15 }, added(draft, 'noise', { cells: [6, 6], octaves: 5 })),
  },
  {
    word: 'Height range',
    about: 'high places, or low ones inverted',
    build: (draft) => range(draft, BELOW_HEIGHT, 0.5, 0.6),
  },
  {
    word: 'Slope',
    about: 'steep places',
    build: (draft) =>
      range(
        draft,
        added(draft, 'to-grey', { method: 'slope' }, added(draft, 'height-to-normal', {}, BELOW_HEIGHT)),
        0.2,
        0.6,
      ),
  },
  {
    word: 'Edges',
    about: 'what sticks out, for wear',
    build: (draft) => range(draft, added(draft, 'curvature', { radius: 0.02 }, BELOW_HEIGHT), 0.52, 0.6),
  },
  {
    word: 'Hollows',
    about: 'what lies deep, for dirt',
    build: (draft) => added(draft, 'invert', {}, added(draft, 'height-to-occlusion', {}, BELOW_HEIGHT)),
  },
  {
    word: 'Colour range',
    about: 'one colour of what lies below',
    build: (draft) => added(draft, 'colour-mask', {}, { backdrop: 'colour' }, 'mask'),
  },
  {
    word: 'Gradient',
    about: 'across the tile, or round',
    build: (draft) => added(draft, 'ramp', {}),
  },
]
