import type { MaterialDocument } from '#core/document/document'
import { allLayers } from '#core/document/document'
import type { ScreenName } from '../../session/screens'

/** One step of the walk. docs/first-material.md tells the same with pictures. */
export interface Step {
  readonly here: ScreenName
  /** The element it stands beside, by data-guide. */
  readonly at: string
  readonly title: string
  readonly text: string
  /** Whether the step has been done, so that the walk goes on by itself. */
  readonly done?: (document: MaterialDocument, start: MaterialDocument, here: ScreenName) => boolean
}

const layers = (document: MaterialDocument): number => [...allLayers(document.layers)].length
const nodes = (document: MaterialDocument): number => Object.keys(document.nodes).length
const cells = (document: MaterialDocument): number =>
  [...allLayers(document.layers)].reduce(
    (sum, layer) => sum + (layer.kind === 'group' ? 0 : Object.keys(layer.cells).length),
    0,
  )

export const STEPS: readonly Step[] = [
  {
    here: 'material',
    at: 'layers',
    title: 'Layers by channels',
    text: 'Each row is a layer, the topmost first; each column is a channel. A cell is what that layer puts into that channel. The row of pictures on top is what they come to.',
  },
  {
    here: 'material',
    at: 'add',
    title: 'Add a layer',
    text: 'Press Add and take a layer of a plain colour. It goes above the selected layer, with a cell for colour and one for roughness.',
    done: (document, start) => layers(document) > layers(start),
  },
  {
    here: 'material',
    at: 'selection',
    title: 'Give it a colour',
    text: 'Choose the layer’s cell under Base colour and set its colour here. Numbers are dragged sideways, typed (1/3 works), or put back by a double-click.',
    done: (document, start) => JSON.stringify(document.layers) !== JSON.stringify(start.layers),
  },
  {
    here: 'material',
    at: 'selection',
    title: 'Let it show in patches',
    text: 'Choose the round mask of the new layer, press New node in its settings and take Noise: the layer now shows only where the noise is bright.',
    done: (document, start) => nodes(document) > nodes(start),
  },
  {
    here: 'material',
    at: 'nodes',
    title: 'Harden the patches',
    text: 'Draw a wire from the noise’s port to empty ground and take Threshold; draw one from the threshold to the mask. Drag its Level and Softness until the edges are as you like.',
    done: (document, start) => nodes(document) > nodes(start),
  },
  {
    here: 'material',
    at: 'layers',
    title: 'Give it height',
    text: 'Double-click the layer’s empty cell under Height: the patches rise from what lies below, and normals and occlusion follow by themselves.',
    done: (document, start) => cells(document) > cells(start),
  },
  {
    here: 'material',
    at: 'selection',
    title: 'Make a dial',
    text: 'Press the gauge beside a setting, the level of the threshold for instance, to make a dial of it. Dials are the few controls that others will turn.',
    done: (document, start) => document.dials.length > start.dials.length,
  },
  {
    here: 'material',
    at: 'stage',
    title: 'Look',
    text: 'Turn the shape, point to read values, look at single channels, flat or repeated. Every change is saved and can be undone; Ctrl K finds everything, ? lists the shortcuts.',
  },
  {
    here: 'material',
    at: 'screens',
    title: 'On to the maps',
    text: 'Open Maps: there channels are packed into files.',
    done: (_document, _start, here) => here === 'maps',
  },
  {
    here: 'maps',
    at: 'files',
    title: 'Files by red, green, blue and alpha',
    text: 'Each row is a file, each cell what one of its channels holds. Choose another packing above, or drag channels into cells: a packing of your own begins with the first change.',
  },
  {
    here: 'maps',
    at: 'check',
    title: 'Check before delivery',
    text: 'What an engine’s programmer would find is told here first. Show marks the places on the stage; Histogram has the stretch that real surfaces keep to.',
  },
  {
    here: 'maps',
    at: 'delivered',
    title: 'As it arrives',
    text: 'Beside puts the files, rounded and encoded as they will be, next to the source: look for bands, and at the smaller mips.',
  },
  {
    here: 'maps',
    at: 'make',
    title: 'Make them',
    text: 'Choose a size under Make, then press the button. The bake goes on while you work, even with the tab closed.',
  },
  {
    here: 'maps',
    at: 'deliveries',
    title: 'Take them along',
    text: 'A delivery is a ZIP of the files with a record that makes the same bytes again. Download it, look at it on the stage, or compare it with an earlier one.',
  },
]
