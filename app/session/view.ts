import type { ExportSubject } from '#core/exchange/exported-pictures'
import { channelOutput } from '#core/document/address'
import type { Output } from '#core/document/address'
import type { StageOutput } from '#core/texture/stage-output'
import type { PortType } from '#core/field/field'
import type { Look } from '#core/preview/looks'
import { createStore } from 'zustand/vanilla'
import type { MaterialDocument } from '#core/document/document'
import type { Toggleable } from '#core/document/edits/focus'
import { findLayer, findPlain } from '#core/document/edits/layers'
import { channelsOf } from '#core/document/channels'

/** What is chosen in the sheet. */
export type Selection =
  | { readonly kind: 'layer'; readonly layer: string }
  | { readonly kind: 'mask'; readonly layer: string; readonly entry: number | null }
  | { readonly kind: 'cell'; readonly layer: string; readonly channel: string }
  | { readonly kind: 'channel'; readonly channel: string }

export const SHAPES = ['sphere', 'cube', 'plane', 'cylinder', 'body'] as const
/** What lights the stage; own is a picture of the library. */
export const ENVIRONMENTS = ['studio', 'overcast', 'low sun', 'workshop', 'own'] as const
/** What stands behind a shape. */
export const BACKGROUNDS = ['grey', 'blurred'] as const
/** What height moves. */
export const DISPLACED = ['plane', 'every shape', 'nothing'] as const
/** How bright it is around what shines by itself. */
export const SURROUNDINGS = ['as lit', 'dim', 'bright'] as const
export const PREVIEW_WIDTHS = [256, 512, 1024, 2048, 4096] as const

/** A lamp that is moved by hand, in place of the environment's strongest light. */
export interface Lamp {
  readonly on: boolean
  /** Where it stands: right and up of the middle of the sky, which is 1 wide; at 1 it rakes over the surface. */
  readonly at: readonly [number, number]
  readonly strength: number
  /** How much of the environment's light is left, 0–1. */
  readonly left: number
}

/** How strands are shown: what a renderer mixes of their masks. */
export interface StrandView {
  /** Tones of strands that are dark and light in the channel “tone”, of roots and of tips: "#rrggbb". */
  readonly dark: string
  readonly light: string
  readonly root: string
  readonly tip: string
  /** How far the tones of roots and tips reach: 1 as far as their masks, 0 nowhere. */
  readonly rootReach: number
  readonly tipReach: number
  /** The highlight along strands: how bright, and how tight. */
  readonly shine: number
  readonly tightness: number
  /** A second normal map that is tiled over the card: "sha256:…", empty is none; how often, and how strong. */
  readonly normal: string
  readonly tiles: number
  readonly depth: number
}

export interface StageView {
  /** The output seen unlit; null is the lit material. */
  readonly shown: StageOutput | null
  /** A shape, the tile seen from above, or a model of the project. */
  readonly mode: 'model' | 'flat' | 'part'
  readonly shape: (typeof SHAPES)[number]
  readonly environment: (typeof ENVIRONMENTS)[number]
  /** Turn of the environment, in turns. */
  readonly turn: number
  /** Exposure in stops. */
  readonly exposure: number
  /** How often the tile is laid along each side. */
  readonly repeat: number
  readonly displaced: (typeof DISPLACED)[number]
  /** The picture that lights the stage where the environment is one's own: "sha256:…"; empty is none. */
  readonly picture: string
  readonly background: (typeof BACKGROUNDS)[number]
  readonly surroundings: (typeof SURROUNDINGS)[number]
  readonly lamp: Lamp
  /** Whether the surface is plain grey: with its normals, so that they alone are seen, or without any map, so that the mesh alone is. */
  readonly plain: 'no' | 'relief' | 'form'
  /** How the surface is lit: by the workflow of the renderer it is for. */
  readonly look: Look
  readonly strand: StrandView
  /** Whether cut-out edges are dithered instead of hard. */
  readonly dithered: boolean
  /** Whether the mask of what is chosen is laid over the surface. */
  readonly overlay: boolean
  /** Whether a model shows the part alone that is worked on. */
  readonly isolated: boolean
  /** What lies over that part: a kind of mesh data, or a checker in a UV set; null is nothing. */
  readonly meshData: string | null
}

/** Strands in one light tone, without any of what can be turned on: one control after the other is judged so. */
export const NEUTRAL_STRANDS: StrandView = {
  dark: '#b0aaa0',
  light: '#b0aaa0',
  root: '#b0aaa0',
  tip: '#b0aaa0',
  rootReach: 1,
  tipReach: 1,
  shine: 0,
  tightness: 40,
  normal: '',
  tiles: 4,
  depth: 0.5,
}

/** The stage as it is at first. */
export const STAGE: StageView = {
  shown: null,
  mode: 'model',
  shape: 'sphere',
  environment: 'studio',
  turn: 0,
  exposure: 0,
  repeat: 1,
  displaced: 'plane',
  picture: '',
  background: 'grey',
  surroundings: 'as lit',
  lamp: { on: false, at: [-0.5, 0.35], strength: 4, left: 0.35 },
  plain: 'no',
  look: 'metal-rough',
  strand: NEUTRAL_STRANDS,
  dithered: false,
  overlay: false,
  isolated: false,
  meshData: null,
}

/** A shape by the word that people read. */
export const shapeInWords = (shape: StageView['shape']): string => (shape === 'body' ? 'test body' : shape)

/** A state to compare with: the document as it was. */
export interface Compared {
  readonly name: string
  readonly document: MaterialDocument
}

/** A wire whose other end was dropped on empty ground. */
export interface LooseWire {
  readonly type: PortType
  /** Which end is loose: the input a new node would have to give, or the output. */
  readonly loose: 'input' | 'output'
  /** "node.port" at the fixed end; for a place where wires end, that place. */
  readonly fixed: { readonly node: string; readonly port: string } | { readonly place: Selection }
}

export const SHEET_SIZES = ['small', 'medium', 'large'] as const

/** How the sheet of layers is laid out. */
export interface SheetView {
  readonly size: (typeof SHEET_SIZES)[number]
  /** Channels without a column, and the order of the others as far as it was chosen. */
  readonly hidden: readonly string[]
  readonly order: readonly string[]
  /** Only channels that some layer writes have a column. */
  readonly onlyUsed: boolean
}

export type PaletteState =
  | { readonly kind: 'commands' }
  | { readonly kind: 'nodes'; readonly at?: [number, number]; readonly wire?: LooseWire; readonly into?: Selection }

/** A button beside a notice. */
export interface NoticeAction {
  readonly word: string
  run(): void
}

/** What the screen shows, none of which is saved. */
export interface View {
  readonly selection: Selection | null
  /** Layers that are chosen together with that of the selection. */
  readonly alsoLayers: readonly string[]
  /** Chosen nodes; the first one's parameters are shown. */
  readonly selectedNodes: readonly string[]
  readonly stage: StageView
  /** What the stage showed before something was shown large on it. */
  readonly stageBefore: Pick<StageView, 'shown' | 'mode'> | null
  readonly width: (typeof PREVIEW_WIDTHS)[number]
  /** Whether that follows the stage's size. */
  readonly widthFollows: boolean
  readonly solo: Toggleable | null
  /** Held for a before/after. */
  readonly without: Toggleable | null
  readonly wholeGraph: boolean
  readonly sheet: SheetView
  /** Groups that are folded in the sheet. */
  readonly folded: ReadonlySet<string>
  readonly tab: 'selection' | 'dials' | 'states'
  readonly compared: Compared | null
  /** What stands right of the seam in its place while two are compared; null is the document as it is. */
  readonly versus: Compared | null
  /** Where the two halves of a split meet, 0–1 of the stage's width. */
  readonly seam: number
  /** The overlay, for as long as its key is held. */
  readonly overlayHeld: boolean
  /** Waiting for a colour to be picked from the stage. */
  readonly picking: ((hex: string) => void) | null
  /** The node whose IDs are picked by pressing on the stage. */
  readonly pickingIds: string | null
  /** Whether the flat view marks what shows first that the tile repeats. */
  readonly repeatMarked: boolean
  /** Waiting for a press on the stage that asks what lies there. */
  readonly asking: boolean
  readonly palette: PaletteState | null
  /** What is exported to an image editor, or the file that is imported from one; null there asks for it. */
  readonly exchange: { readonly export: ExportSubject } | { readonly import: File | null } | null
  /** What is drawn: an image that was drawn before, or "" for a new one; and what takes the picture. */
  readonly drawing: { readonly image: string; readonly take: (image: string) => void } | null
  readonly help: 'shortcuts' | { readonly node: string } | null
  /** The layer within whose mask values are counted; null is the whole tile. */
  readonly within: string | null
  /** Renaming a layer in place. */
  readonly renaming: string | null
  /** Renaming a node on its card. */
  readonly renamingNode: string | null
  /** Renaming a frame on the canvas. */
  readonly renamingFrame: string | null
  /** Renaming a named result in its list. */
  readonly renamingTap: string | null
  /** A cell that was copied, for pasting. */
  readonly clip: { readonly layer: string; readonly channel: string } | null
  /** Something to tell, until the next thing; the pane it stands in, and what can be done about it. */
  readonly notice: string | null
  readonly noticePane: string | null
  readonly noticeAction: NoticeAction | null
  /** Whether the walk through a first material goes on, and where it is. */
  readonly guide: boolean
  readonly guideStep: number
  /** The document when the step began. */
  readonly guideStart: MaterialDocument | null
}

/** Share of the stage's shorter side that a tile covers there, about, on the sphere. */
const COVERED = 0.75
/** As far as a preview follows the stage by itself. */
const FOLLOWS_TO = 1024

/** The preview that a stage of so many pixels shows sharp. */
export const widthFor = (pixels: number): View['width'] =>
  PREVIEW_WIDTHS.find((width) => width >= pixels * COVERED && width <= FOLLOWS_TO) ?? FOLLOWS_TO

export const createView = () =>
  createStore<View>(() => ({
    selection: null,
    alsoLayers: [],
    selectedNodes: [],
    stage: STAGE,
    stageBefore: null,
    width: 512,
    widthFollows: true,
    solo: null,
    without: null,
    wholeGraph: false,
    sheet: { size: 'small', hidden: [], order: [], onlyUsed: false },
    folded: new Set(),
    tab: 'selection',
    compared: null,
    versus: null,
    seam: 0.5,
    overlayHeld: false,
    picking: null,
    pickingIds: null,
    repeatMarked: false,
    asking: false,
    palette: null,
    exchange: null,
    drawing: null,
    help: null,
    within: null,
    renaming: null,
    renamingNode: null,
    renamingFrame: null,
    renamingTap: null,
    clip: null,
    notice: null,
    noticePane: null,
    noticeAction: null,
    guide: false,
    guideStep: 0,
    guideStart: null,
  }))

export type ViewStore = ReturnType<typeof createView>

export const sameSelection = (a: Selection | null, b: Selection | null): boolean =>
  JSON.stringify(a) === JSON.stringify(b)

/** Whether what a place names is in the document: an undo may take a chosen layer, cell, mask entry or channel away. */
export function isPresent(document: MaterialDocument, place: Selection): boolean {
  if (place.kind === 'channel') return channelsOf(document).some(({ id }) => id === place.channel)
  const layer = findLayer(document, place.layer)
  if (!layer) return false
  if (place.kind === 'cell') return channelsOf(document).some(({ id }) => id === place.channel)
  return place.kind === 'layer' || place.entry === null || place.entry < layer.mask.length
}

/** The output that a place stands for; an empty cell, and a group's, is the channel up to there. */
export function outputOf(document: MaterialDocument, place: Selection): Output {
  if (place.kind === 'channel') return channelOutput(place.channel)
  const { layer } = place
  if (place.kind === 'layer') return { kind: 'layer', layer, channel: 'colour' }
  if (place.kind === 'mask')
    return place.entry === null ? { kind: 'mask', layer } : { kind: 'entry', layer, entry: place.entry }
  const { channel } = place
  return { kind: findPlain(document, layer)?.cells[channel] === undefined ? 'layer' : 'cell', layer, channel }
}

/** What a place switches on and off; null for a channel. */
export function toggleableOf(place: Selection): Toggleable | null {
  if (place.kind === 'layer') return { layer: place.layer }
  if (place.kind === 'cell') return { layer: place.layer, channel: place.channel }
  return place.kind === 'mask' && place.entry !== null ? { layer: place.layer, entry: place.entry } : null
}
