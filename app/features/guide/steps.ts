import type { Layer, MaterialDocument, PlainLayer, Source } from '#core/document/document'
import { allLayers } from '#core/document/document'
import { fixedChannel } from '#core/document/channels'
import { inputSources, nodeOf } from '#core/document/sources'
import type { ScreenName } from '../../session/screens'

/** What is known when a step is looked at: the document now and when the step began, the screen, and whether a bake was asked for. */
export interface Progress {
  readonly document: MaterialDocument
  readonly start: MaterialDocument
  readonly here: ScreenName
  /** Whether a bake was asked for since the step began. */
  readonly asked: boolean
}

/** One step of the walk. docs/first-material.md tells the same with pictures. */
export interface Step {
  readonly here: ScreenName
  /** The element it stands beside, by data-guide, and the side where it covers nothing that the step needs. */
  readonly at: string
  readonly side: 'top' | 'right' | 'bottom' | 'left'
  readonly title: string
  readonly text: string
  /** Whether the step has been done, so that the walk goes on by itself. */
  readonly done?: (progress: Progress) => boolean
}

/** The height of what nothing is put on: neither raised nor cut in. */
const SURFACE = fixedChannel('height')!.backdrop[0]

const layers = (document: MaterialDocument): Layer[] => [...allLayers(document.layers)]
const cellsOf = (document: MaterialDocument, channel: string): Map<string, Source> =>
  new Map(
    layers(document).flatMap((layer) => {
      const cell = layer.kind === 'group' ? undefined : (layer as PlainLayer).cells[channel]
      return cell ? [[layer.id, cell.source] as const] : []
    }),
  )
/** Types of the nodes that masks read, themselves and what feeds them. */
function behindMasks(document: MaterialDocument): Set<string> {
  const seen = new Set<string>()
  const follow = (source: Source): void => {
    const id = nodeOf(document, source)
    if (id === null || seen.has(id)) return
    seen.add(id)
    inputSources(document.nodes[id]).forEach(follow)
  }
  for (const { mask } of layers(document)) mask.forEach(({ source }) => follow(source))
  return new Set([...seen].flatMap((id) => document.nodes[id]?.type ?? []))
}

/** How many nodes show a picture that was chosen. */
const picturesIn = ({ nodes }: MaterialDocument): number =>
  Object.values(nodes).filter(({ params }) => typeof params?.image === 'string' && params.image !== '').length

/** How many cells of corrections do something. */
const correctedCells = (document: MaterialDocument): number =>
  layers(document).reduce(
    (sum, layer) =>
      sum +
      (layer.kind === 'correction'
        ? Object.values(layer.cells).filter(({ source }) => nodeOf(document, source) !== null).length
        : 0),
    0,
  )

export const STEPS: readonly Step[] = [
  {
    here: 'material',
    at: 'layers',
    side: 'right',
    title: 'Layers by channels',
    text: 'Each row is a layer, the topmost first; each column is a channel. A cell is what that layer puts into that channel. The row of pictures on top is what they come to.',
  },
  {
    here: 'material',
    at: 'add',
    side: 'bottom',
    title: 'Add a layer',
    text: 'Press Add and take a layer of a plain colour. It goes above the selected layer, with a cell for colour and one for roughness.',
    done: ({ document, start }) => layers(document).length > layers(start).length,
  },
  {
    here: 'material',
    at: 'selection',
    side: 'left',
    title: 'Give it a colour',
    text: 'Choose the new layer’s cell under Colour and set its colour at the right. Numbers are dragged sideways, typed (1/3 works), or put back by a double-click.',
    done: ({ document, start }) => {
      const before = cellsOf(start, 'colour')
      return [...cellsOf(document, 'colour')].some(
        ([id, source]) => JSON.stringify(before.get(id)) !== JSON.stringify(source),
      )
    },
  },
  {
    here: 'material',
    at: 'selection',
    side: 'left',
    title: 'Let it show in patches',
    text: 'Choose the round mask of the new layer, press New node at the right and take Noise: the layer now shows only where the noise is bright.',
    done: ({ document }) => behindMasks(document).has('noise'),
  },
  {
    here: 'material',
    at: 'nodes',
    side: 'top',
    title: 'Harden the patches',
    text: 'Draw a wire from the noise’s port to empty ground and take Threshold. Then draw one from the threshold’s port onto the card of the layer, where it says mask, and drag Level and Softness at the right until the edges are as you like.',
    done: ({ document, start }) =>
      behindMasks(document).has('threshold') &&
      Object.entries(document.nodes).some(
        ([id, { type, params }]) =>
          type === 'threshold' &&
          Object.keys(params ?? {}).length > 0 &&
          JSON.stringify(params) !== JSON.stringify(start.nodes[id]?.params),
      ),
  },
  {
    here: 'material',
    at: 'nodes',
    side: 'top',
    title: 'Give it height',
    text: `Double-click the layer’s empty cell under Height and set its value to 0.6: ${SURFACE} is the surface, so the patches rise by a tenth of the height there is. Normals and occlusion follow by themselves.`,
    done: ({ document, start }) => {
      const before = cellsOf(start, 'height')
      return [...cellsOf(document, 'height')].some(
        ([id, source]) =>
          !('value' in source && source.value === SURFACE) && JSON.stringify(before.get(id)) !== JSON.stringify(source),
      )
    },
  },
  {
    here: 'material',
    at: 'selection',
    side: 'left',
    title: 'Make a dial',
    text: 'Choose the layer’s mask again, then its threshold below, and press the small gauge beside Level: Make a dial. Dials are the few controls that others will turn.',
    done: ({ document, start }) => document.dials.length > start.dials.length,
  },
  {
    here: 'material',
    at: 'stage',
    side: 'left',
    title: 'A picture of your own',
    text: 'Drop an image file on the stage: with transparency it becomes a decal with handles, else a layer. Without a file at hand: choose the new layer’s cell under Colour, press New node, take Image, and draw one there.',
    done: ({ document, start }) => picturesIn(document) > picturesIn(start),
  },
  {
    here: 'material',
    at: 'add',
    side: 'bottom',
    title: 'Correct it all',
    text: 'Press Add and take a correction: it changes what lies below. Choose its cell under Colour, press Operation at the right and take one, hue and saturation for instance.',
    done: ({ document, start }) => correctedCells(document) > correctedCells(start),
  },
  {
    here: 'material',
    at: 'stage',
    side: 'left',
    title: 'Look',
    text: 'Turn the shape, point to read values, press with Alt held to see which layers lie there, look at single channels, flat or repeated. Every change is saved and can be undone; Ctrl K finds everything, ? lists the shortcuts.',
  },
  {
    here: 'material',
    at: 'screens',
    side: 'bottom',
    title: 'On to the maps',
    text: 'Open Maps: there channels are packed into files.',
    done: ({ here }) => here === 'maps',
  },
  {
    here: 'maps',
    at: 'files',
    side: 'right',
    title: 'Files by red, green, blue and alpha',
    text: 'Each row is a file, each cell what one of its channels holds. Choose another packing above, or drag channels into cells: a packing of your own begins with the first change.',
  },
  {
    here: 'maps',
    at: 'check',
    side: 'left',
    title: 'Check before delivery',
    text: 'What an engine’s programmer would find is told here first. Show marks the places on the stage; Histogram has the stretch that real surfaces keep to.',
  },
  {
    here: 'maps',
    at: 'delivered',
    side: 'bottom',
    title: 'As it arrives',
    text: 'Beside puts the files, rounded and encoded as they will be, next to the source: look for bands, and at the smaller mips.',
  },
  {
    here: 'maps',
    at: 'make',
    side: 'left',
    title: 'Make them',
    text: 'Choose a size under Make, then press the button. The bake goes on while you work, even with the tab closed.',
    done: ({ asked }) => asked,
  },
  {
    here: 'maps',
    at: 'deliveries',
    side: 'top',
    title: 'Take them along',
    text: 'A delivery is a ZIP of the files with a record that makes the same bytes again. Download it, look at it on the stage, or compare it with an earlier one.',
  },
]
