import { GristError } from '../errors'
import type { Allocate, Field, PortType } from '../field/field'
import { raiseRows, shrinkRows } from '../field/coarse'
import { copyRows, createField, fieldPlanes, plainMemory, uniformField } from '../field/field'
import type { Patch } from '../field/patches'
import {
  COLLAR,
  gatherIds,
  fadeSteps,
  mixTaps,
  normaliseStretches,
  patchAt,
  readTaps,
  stepsOver,
  tapCount,
  turnDirections,
  turnTaps,
} from '../field/patches'
import type { NodeContext } from '../graph/define-node'
import type { Registry } from '../graph/registry'
import { fillRows, gatherPlane, padRows, scatterPlane } from '../kernels/island-planes'
import { simd } from '../kernels/simd'
import type { IslandThreads } from './island-threads'

/** A result that lives for one tile of rows only, in memory of the thread: the numbers of its planes there. */
export interface LocalField {
  readonly type: PortType
  readonly local: readonly number[]
}

/** One node's work in a unit; inputs and outputs are places in the pass's list of fields. */
export interface PassStep {
  readonly type: string
  readonly params: Readonly<Record<string, unknown>>
  readonly inputs: Readonly<Record<string, number | null>>
  readonly outputs: Readonly<Record<string, number>>
  /** What NodeDefinition.prepare gave. */
  readonly prepared?: unknown
  /** The field that is the step's scratch memory (NodeContext.scratch). */
  readonly scratch?: number
  /** The one of the node's phases that this is (NodeContext.phase). */
  readonly phase?: number
}

/**
 * Steps that are done one after the other for a tile of rows, then for the next one; tiles are independent of each other,
 * so that any thread may take any. All of a unit is done before the next begins.
 */
export interface StepsUnit {
  readonly kind: 'steps'
  readonly steps: readonly PassStep[]
  /** Rows from ≤ y < to, and how many of them make a tile. */
  readonly from: number
  readonly to: number
  readonly tileRows: number
  /** Planes that the unit's local fields take. */
  readonly localPlanes: number
  /** Where the one step is done over islands: the reach of their pictures. Rows are then numbers of pictures. */
  readonly reach?: number
  /** By output the field of what its taps read, where what both sides of seams leave apart is mixed. */
  readonly taps?: Readonly<Record<string, number>>
  /** How many texels of the raster one of its fields' is wide; absent where they are as wide. */
  readonly coarse?: number
}

/**
 * For a reach whose patches are coarse: pads a field beyond islands, makes a coarse one of it, or adds what islands changed there. For
 * others: fills what a step over islands has left out.
 */
export interface CoarseUnit {
  readonly kind: 'pad' | 'shrink' | 'raise' | 'fill'
  readonly reach: number
  /** The field that is read, or the coarse fields as on a tile and over islands; of a fill none. */
  readonly sources: readonly number[]
  readonly target: number
  readonly from: number
  readonly to: number
  readonly tileRows: number
}

/** Mixes what the taps of islands read into the rows beside seams, or adds to them what fades of the steps over seams. */
export interface MixUnit<Kind = 'mix'> {
  readonly kind: Kind
  readonly target: number
  readonly taps: number
  readonly reach: number
  readonly from: number
  readonly to: number
  readonly tileRows: number
}

/** Finds how far a result goes from one side of seams to the other; its rows are feet. */
export interface StepsOverUnit {
  readonly kind: 'steps-over'
  readonly source: number
  readonly target: number
  readonly reach: number
  readonly from: number
  readonly to: number
  readonly tileRows: number
}

/** Brings rows from one field to another that holds them too: those that a band hands on to the next. */
export interface CopyUnit {
  readonly kind: 'copy'
  readonly source: number
  readonly target: number
  readonly from: number
  readonly to: number
}

export type Unit = StepsUnit | CopyUnit | MixUnit | MixUnit<'fade'> | StepsOverUnit | CoarseUnit

/** What all steps of an evaluation share. */
export type PassSetting = Omit<NodeContext, 'rows' | 'scratch' | 'phase'>

/** A run of units over fields whose memory is there: plain data, so that it can go to other threads as one message. */
export interface Pass {
  readonly setting: PassSetting
  readonly fields: readonly (Field | LocalField)[]
  readonly units: readonly Unit[]
}

/** Work that all rows of a step share (NodeDefinition.prepare). */
export interface PrepareTask {
  readonly type: string
  readonly params: Readonly<Record<string, unknown>>
  readonly inputs: Readonly<Record<string, Field | null>>
  readonly setting: PassSetting
}

/** How those who wait hear of a pass, and how it hears that nobody waits any more. */
export interface PassSignals {
  readonly isCancelled: () => boolean
  /** Tiles that are done, of each unit; called now and then. */
  readonly onProgress?: (tilesDone: (unit: number) => number) => void
}

/**
 * Does passes, here or on other threads. `allocate` gives memory that its threads can see. Work rejects with `cancelled`
 * soon after `isCancelled` turns true, and only once no thread is at it any more.
 */
export interface Executor extends IslandThreads {
  readonly threads: number
  run(pass: Pass, signals: PassSignals): Promise<void>
  prepare(task: PrepareTask, isCancelled: () => boolean): Promise<unknown>
  /** Nothing more will be done in its memory: threads let it go. */
  end(): void
}

export const tilesOf = (unit: Unit): number =>
  unit.kind === 'copy' ? 1 : Math.ceil((unit.to - unit.from) / unit.tileRows)

/** Throws `cancelled`. */
export function checkWanted(isCancelled: () => boolean): void {
  if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
}

/** Does a step's shared work now, on this thread. */
export function runPrepare(registry: Registry, task: PrepareTask, isCancelled: () => boolean): unknown {
  const { type, params, inputs, setting } = task
  const check = (): void => checkWanted(isCancelled)
  check()
  // The graph's builder has checked ports and parameters against the definition.
  return registry.get(type)!.prepare!(inputs as never, params as never, {
    ...setting,
    rows: { from: 0, to: setting.height, check },
  })
}

/** Calls `work` with what does a tile of a unit on this thread; its memory for local fields is free again after it. */
export function withUnit(
  registry: Registry,
  { setting, fields }: Pass,
  unit: Unit,
  isCancelled: () => boolean,
  work: (doTile: (tile: number) => void) => void,
): void {
  if (unit.kind === 'copy') {
    const [source, target] = [fields[unit.source] as Field, fields[unit.target] as Field]
    return work(() => copyRows(source, target, unit.from, unit.to))
  }
  if (unit.kind === 'mix' || unit.kind === 'fade') return work(mixer(setting, fields, unit))
  if (unit.kind === 'steps-over') return work(overSeams(setting, fields, unit))
  if (unit.kind !== 'steps') return work(coarseRunner(setting, fields, unit))
  const scaled = coarser(setting, unit.coarse ?? 1)
  if (unit.reach !== undefined) return work(patchRunner(registry, scaled, fields, unit, isCancelled))
  if (unit.coarse !== undefined) return work(unitRunner(registry, scaled, fields, unit, isCancelled, plainMemory))
  const twin = unit.localPlanes > 0 ? simd() : null
  if (!twin) return work(unitRunner(registry, setting, fields, unit, isCancelled, plainMemory))
  twin.scratch(() => {
    work(unitRunner(registry, setting, fields, unit, isCancelled, twin.allocate))
  })
}

/** The same on a coarser raster. */
const coarser = (setting: PassSetting, times: number): PassSetting =>
  times === 1
    ? setting
    : {
        ...setting,
        width: setting.width / times,
        height: setting.height / times,
        tileTexels: setting.tileTexels / times,
      }

function coarseRunner(
  { patches }: PassSetting,
  fields: readonly (Field | LocalField)[],
  { kind, reach, sources, target, from: first, to: end, tileRows }: CoarseUnit,
): (tile: number) => void {
  const set = patches!.get(reach)!
  const made = fields[target] as Field
  const [one, other] = sources.map((place) => fields[place] as Field)
  return (tile) => {
    const from = first + tile * tileRows
    const to = Math.min(end, from + tileRows)
    if (kind === 'fill') fillRows(made, set, from, to)
    else if (kind === 'raise') raiseRows({ plain: one!, over: other! }, set, made, from, to)
    else if (kind === 'pad') padRows(one!, set, made, from, to)
    else shrinkRows(one!, set, made, from, to)
  }
}

function unitRunner(
  registry: Registry,
  setting: PassSetting,
  fields: readonly (Field | LocalField)[],
  unit: StepsUnit,
  isCancelled: () => boolean,
  allocate: Allocate,
): (tile: number) => void {
  const { steps, from: first, to: end, tileRows, localPlanes } = unit
  const { width, height } = setting
  const planes = Array.from({ length: localPlanes }, () => {
    const { buffer, byteOffset } = allocate(tileRows * width * 4)
    return new Float32Array(buffer, byteOffset, tileRows * width)
  })
  const check = (): void => checkWanted(isCancelled)
  return (tile) => {
    const from = first + tile * tileRows
    const to = Math.min(end, from + tileRows)
    const band = { top: from, rows: to - from }
    const fieldAt = (place: number): Field => {
      const field = fields[place]!
      if (!('local' in field)) return field
      const own = { type: field.type, width, height, ...band, stride: width, ids: null }
      return { ...own, planes: field.local.map((plane) => planes[plane]!) }
    }
    for (const { type, params, inputs, outputs, prepared, scratch: room, phase } of steps) {
      check()
      const given = fieldsBy(inputs, fieldAt)
      const made = fieldsBy(outputs, fieldAt)
      // The graph's builder has checked ports and parameters against the definition.
      const node = registry.get(type)!
      const scratch = room === undefined ? null : fieldAt(room)
      const context = { ...setting, rows: { from, to, check }, prepared, scratch, phase }
      node.evaluate(given as never, params as never, made as never, context)
    }
  }
}

/** Does the one step of a unit on the picture of an island, as on any picture, and writes the island's own texels back. */
function patchRunner(
  registry: Registry,
  setting: PassSetting,
  fields: readonly (Field | LocalField)[],
  { steps: [step], reach, taps = {} }: StepsUnit,
  isCancelled: () => boolean,
): (tile: number) => void {
  const { type, params, inputs, outputs } = step!
  const node = registry.get(type)!
  const set = setting.patches!.get(reach!)!
  const check = (): void => checkWanted(isCancelled)
  // Rows above and below that are read only: the islands' own, and those that taps read, are made.
  const reached = reach! / set.coarse
  const collar = tapCount(set) > 0 ? reached * COLLAR + 2 : 0
  const spare = node.sliceable === false ? 0 : Math.max(0, Math.floor(reached - collar))
  const given = fieldsBy(inputs, (place) => fields[place] as Field)
  const made = fieldsBy(outputs, (place) => fields[place] as Field)
  const doPatch = (patch: Patch, allocate: Allocate): void => {
    const onPatch = Object.entries(given).map(([name, field]) => [name, field && patchOf(patch, field, allocate)])
    const out = Object.fromEntries(
      Object.entries(made).map(([name, field]) => [name, field && emptyOn(patch, field.type, allocate)]),
    )
    const { width, height, metres } = setting
    node.evaluate(Object.fromEntries(onPatch) as never, params as never, out as never, {
      ...setting,
      width: patch.width,
      height: patch.height,
      metres: [(metres[0] * patch.width) / width, (metres[1] * patch.height) / height],
      rows: { from: spare, to: patch.height - spare, check },
      prepared: undefined,
      scratch: null,
    })
    for (const [name, field] of Object.entries(made)) {
      if (!field) continue
      field.planes.forEach((plane, p) => scatterPlane(patch, out[name]!.planes[p]!, plane))
      if (field.ids) scatterPlane(patch, out[name]!.ids!, field.ids)
      if (taps[name] !== undefined) tapInto(patch, out[name]!, fields[taps[name]] as Field)
    }
  }
  return (tile) => {
    check()
    const patch = patchAt(set, set.order[tile]!)
    if (patch.runs.length === 0) return
    const twin = simd()
    if (twin) twin.scratch(() => doPatch(patch, twin.allocate))
    else doPatch(patch, plainMemory)
  }
}

function tapInto(patch: Patch, field: Field, taps: Field): void {
  field.planes.forEach((plane, p) => readTaps(patch, plane, taps.planes[p]!))
  if (field.type === 'normal') turnTaps(patch, taps.planes[0]!, taps.planes[1]!, true)
  if (field.type === 'vector') turnTaps(patch, taps.planes[0]!, taps.planes[1]!, false)
}

function mixer(
  { patches, width: columns }: PassSetting,
  fields: readonly (Field | LocalField)[],
  { kind, target, taps, reach, from: first, to: end, tileRows }: MixUnit | MixUnit<'fade'>,
): (tile: number) => void {
  const set = patches!.get(reach)!
  const [made, read] = [fields[target] as Field, fields[taps] as Field]
  const [change, stretches, width] =
    kind === 'mix' ? ([mixTaps, set.mixes, columns / set.coarse] as const) : ([fadeSteps, set.fades, columns] as const)
  return (tile) => {
    const from = first + tile * tileRows
    const to = Math.min(end, from + tileRows)
    made.planes.forEach((plane, p) => change(set, read.planes[p]!, plane, width, from, to))
    if (made.type === 'normal') normaliseStretches(stretches, made.planes, width, from, to)
  }
}

function overSeams(
  { patches }: PassSetting,
  fields: readonly (Field | LocalField)[],
  { source, target, reach, from: first, to: end, tileRows }: StepsOverUnit,
): (tile: number) => void {
  const set = patches!.get(reach)!
  const [made, steps] = [fields[source] as Field, fields[target] as Field]
  return (tile) => {
    const from = first + tile * tileRows
    stepsOver(set, made, steps.planes, from, Math.min(end, from + tileRows))
  }
}

/** A field over the picture of an island that is 0 everywhere: what no texel of the raster reaches stays so. */
function emptyOn({ width, height }: Patch, type: PortType, allocate: Allocate): Field {
  const field = createField(type, width, height, undefined, allocate)
  for (const plane of fieldPlanes(field)) plane.fill(0)
  return field
}

/** What a field holds over the picture of an island. */
function patchOf(patch: Patch, field: Field, allocate: Allocate): Field {
  const { width, height } = patch
  // One value everywhere is one value there.
  if (field.stride === 0)
    return uniformField(
      field.type,
      width,
      height,
      fieldPlanes(field).map((plane) => plane[0]!),
    )
  const out = emptyOn(patch, field.type, allocate)
  field.planes.forEach((plane, p) => gatherPlane(patch, plane, field.width, out.planes[p]!))
  if (field.ids) gatherIds(patch, field.ids, field.width, out.ids!)
  if (field.type === 'normal') turnDirections(patch, out.planes[0]!, out.planes[1]!, true)
  if (field.type === 'vector') turnDirections(patch, out.planes[0]!, out.planes[1]!, false)
  return out
}

function fieldsBy(
  places: Readonly<Record<string, number | null>>,
  fieldAt: (place: number) => Field,
): Record<string, Field | null> {
  const fields: Record<string, Field | null> = {}
  for (const name of Object.keys(places)) {
    const place = places[name]!
    fields[name] = place === null ? null : fieldAt(place)
  }
  return fields
}
