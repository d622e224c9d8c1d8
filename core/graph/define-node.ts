import type { Field, PortType } from '../field/field'
import type { PatchSet } from '../field/patches'
import type { ImagePyramid, ImageRequest, RasterImage } from '../field/pyramid'
import type { Rows } from '../kernels/rows'
import type { PartFacts } from '../document/domain'
import type { Family } from './families'
import type { Footprint, FootprintOf } from './footprint'
import { footprintOf } from './footprint'
import type { Domain } from './domain'
import type { Parameters, ValuesOf } from './parameters'
import type { InputFields, InputPorts, OutputFields, OutputPorts } from './ports'

/** What a node may read besides its inputs; what it declares in `uses` goes into its content key. */
export interface NodeContext {
  /** Size in texels of what is worked on: the whole raster, or the picture of an island (field/patches.ts). */
  readonly width: number
  readonly height: number
  /** Texels that one tile is wide: what lengths in tiles are multiplied by. */
  readonly tileTexels: number
  /** The output rows to fill. */
  readonly rows: Rows
  readonly documentSeed: number
  readonly metres: readonly [number, number]
  readonly heightMetres: number
  /** The part it lies on; null on a tile, and where there is none yet. */
  readonly part: PartFacts | null
  /** On a part: pictures of its islands, by their reach. */
  readonly patches?: ReadonlyMap<number, PatchSet>
  /** Images by the key of their request (imageKey). */
  readonly images: ReadonlyMap<string, ImagePyramid>
  /** Where all rows are made in one go: room of scratchPlanes times as many rows. Null where nobody gave any. */
  readonly scratch?: Field | null
  /** Which of the node's phases to do for `rows`; absent where all are to be done, over all rows. */
  readonly phase?: number
}

/** What of the domain a node may read: of the part, its boxes, or the mesh data that it names (`meshData`). */
export type Use = 'seed' | 'metres' | 'heightMetres' | 'boxes' | 'meshData'

/** Raised when steps over seams come to other values than before. */
const OVER_SEAMS = 3

/** What a node reads of the domain: its `uses`, by name, and the layout of the part where it reads neighbours. */
export function usedDomain(
  node: AnyNode,
  params: Readonly<Record<string, unknown>>,
  domain: Domain,
): (readonly [string, unknown])[] {
  const { part } = domain
  const used = (node.uses ?? []).map((use) => {
    if (use === 'boxes') return [use, part && [part.box, part.modelBox]] as const
    if (use === 'meshData') return [use, part?.data[node.meshData!(params as never)] ?? null] as const
    return [use, domain[use]] as const
  })
  if (!part || footprintOf(node, params, { width: 1, height: 1, metres: domain.metres }) === 'point') return used
  return [
    ...used,
    ['layout', [OVER_SEAMS, part.mesh, part.part, part.uvSet, ...(part.udim === undefined ? [] : [part.udim])]],
  ]
}

/** A small graph that shows a node at work; `inputs` name "node.port" of `nodes`. */
export interface NodeExample {
  readonly nodes?: Readonly<
    Record<string, { type: string; params?: Record<string, unknown>; inputs?: Record<string, string> }>
  >
  readonly inputs?: Readonly<Record<string, string>>
  readonly params?: Readonly<Record<string, unknown>>
  /** Images the example reads by reference, made on the spot. */
  readonly images?: Readonly<Record<string, () => RasterImage>>
  /** True where it is shown on a part (example-part.ts). */
  readonly onPart?: true
}

export interface Preset {
  readonly title: string
  readonly keywords: readonly string[]
  readonly params: Readonly<Record<string, unknown>>
}

/** What a node's notes may go by. */
export interface NotesContext {
  readonly metres: readonly [number, number]
  /** Types of what its inputs read, as far as they are known. */
  readonly types?: Readonly<Record<string, PortType>>
}

/** Everything about one node type in one place; see docs/decisions/0002-one-node-one-file.md. */
export interface NodeDefinition<
  P extends Parameters = Parameters,
  I extends InputPorts = InputPorts,
  O extends OutputPorts = OutputPorts,
  T = unknown,
> {
  readonly type: string
  readonly version: number
  readonly family: Family
  readonly title: string
  readonly summary: string
  /** Other words people look for. */
  readonly keywords: readonly string[]
  /** Types of wires at whose ends it is most often wanted: lists offer it first there. */
  readonly usualFor?: readonly PortType[]
  readonly params: P
  readonly inputs: I
  readonly outputs: O
  /** Which types the `same` ports may take. */
  readonly genericTypes?: readonly PortType[]
  /** Where true, colour passes through `same` ports sRGB-encoded; conversions are put around the node. */
  encoded?(params: ValuesOf<P>): boolean
  readonly uses?: readonly Use[]
  /** What a node that works on the whole raster reads of islands: which of their texels is nearest (NEAREST), or where they meet (LINKS). */
  readonly readsIslands?: 'nearest' | 'links'
  /** True where, on a part, what both sides of a seam leave apart is mixed in a strip beside it: not where texels are moved, or stand for things. */
  readonly mixedAtSeams?: true
  /** Why it cannot be on a part, in a sentence: there it is a fault. */
  readonly tilesOnly?: string
  /** False where the result need not continue across the border. */
  readonly tiles?: boolean
  /** True for a node without inputs whose outputs are one value everywhere. */
  readonly uniform?: boolean
  /** Outputs with hard edges, which no bound between resolutions can hold for. */
  readonly hardEdged?: readonly string[]
  readonly footprint: Footprint | FootprintOf<ValuesOf<P>>
  /** How far it reads where its distances matter, of a node that reads the whole raster elsewhere: on a part it is done island by island. */
  readonly footprintOnPart?: FootprintOf<ValuesOf<P>>
  /** False where all rows are made in one go; else any rows can be made apart from the others. */
  readonly sliceable?: boolean
  /**
   * How many phases rows are made in where all depend on all: each is done for all rows, by tiles on any thread, before the next
   * begins. What one hands on lies in `context.scratch`.
   */
  readonly phases?: number
  /**
   * Planes of the band's size a thread needs besides inputs and outputs, for the memory forecast; where all rows are made in
   * one go they are given as `context.scratch`.
   */
  scratchPlanes?(params: ValuesOf<P>): number
  /** The images that some outputs need with these parameters, and how they are to be read. */
  images?(params: ValuesOf<P>, outputs: readonly string[], domain: Pick<Domain, 'part'>): ImageRequest[]
  /** The kind of mesh data that it reads. */
  meshData?(params: ValuesOf<P>): string
  readonly presets?: readonly Preset[]
  /** The values that parameters are rounded to so the pattern tiles, in short sentences: shown with the settings. */
  notes?(params: ValuesOf<P>, given: NotesContext): string[]
  /** Brings parameters of an older version up by one: `upgrade[n]` takes version n to n + 1. */
  readonly upgrade?: Readonly<Record<number, (params: Record<string, unknown>) => Record<string, unknown>>>
  /**
   * Work that all rows share, done once a step; its result reaches `evaluate` as `context.prepared`, on other threads
   * too, so it is plain data. `context.rows` are all rows.
   */
  prepare?(inputs: InputFields<I>, params: ValuesOf<P>, context: NodeContext): T
  /** Fills the asked-for outputs over `context.rows`; never changes an input. Throws `cancelled` between rows. */
  evaluate(
    inputs: InputFields<I>,
    params: ValuesOf<P>,
    outputs: OutputFields<O>,
    context: NodeContext & { readonly prepared: T },
  ): void
  readonly example: NodeExample
}

/** Checks what the types can't and returns the definition with its types kept. */
export function defineNode<
  P extends Parameters,
  const I extends InputPorts,
  const O extends OutputPorts,
  T = undefined,
>(definition: NodeDefinition<P, I, O, T>): NodeDefinition<P, I, O, T> {
  const ports = [...Object.values(definition.inputs), ...Object.values(definition.outputs)]
  if (ports.some((port) => port.type === 'any') !== (definition.genericTypes !== undefined))
    throw new Error(`${definition.type}: genericTypes go with ports of type "any"`)
  for (const [name, parameter] of Object.entries(definition.params))
    if (!parameter.schema.safeParse(parameter.default).success)
      throw new Error(`${definition.type}: the default of "${name}" breaks its own range`)
  return definition
}

/** Any node, as registries hold it. */
export type AnyNode = NodeDefinition
