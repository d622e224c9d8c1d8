import { GristError } from '../errors'
import type { Field } from '../field/field'
import type { SharedMemory } from '../field/heap'
import type { PatchSet } from '../field/patches'
import { withPlaces, withViews } from '../field/shared-views'
import type { Registry } from '../graph/registry'
import { memoryHere } from '../kernels/simd'
import type { LocalField, Pass, PassSetting, Unit } from './pass'
import { checkWanted, tilesOf, withUnit } from './pass'

/**
 * How threads do a pass together: one message each, and then words of shared memory. Each takes the next tile of a unit
 * until none is left, and sleeps until those of the others are done. Nobody counts the threads, so one that comes late, or
 * never, holds nothing up.
 */

/** Words of the control block: whether the pass is to end, and a number that changes whenever somebody may go on. */
const CANCEL = 0
const SIGNAL = 1
/** Then two for each unit: tiles that were taken, and that are done. */
const UNITS = 2
/** Looks at a word before a thread goes to sleep; going to sleep and waking up takes longer than most units last. */
const LOOKS = 2000
/** Milliseconds of sleep, were a signal ever missed. */
const SLEEP = 500

/** A control block for a pass of so many units. */
export const controlBlock = (units: number): Int32Array =>
  new Int32Array(new SharedArrayBuffer(4 * (UNITS + 2 * units)))

/** Ends a pass: threads go home at their next check. */
export function endPass(control: Int32Array): void {
  Atomics.store(control, CANCEL, 1)
  signal(control)
}

export const isEnded = (control: Int32Array): boolean => Atomics.load(control, CANCEL) !== 0

/** Tiles of a unit that are done. */
export const tilesDone = (control: Int32Array, unit: number): number => Atomics.load(control, UNITS + 2 * unit + 1)

/** Takes the next tile of a unit; its number may be beyond the last. */
export const takeTile = (control: Int32Array, unit: number): number => Atomics.add(control, UNITS + 2 * unit, 1)

/** Tells that a tile of a unit is done. */
export const tellTileDone = (control: Int32Array, unit: number): void =>
  void Atomics.add(control, UNITS + 2 * unit + 1, 1)

function signal(control: Int32Array): void {
  Atomics.add(control, SIGNAL, 1)
  Atomics.notify(control, SIGNAL)
}

/** Takes part in a pass on this thread, until all of it is done. Throws `cancelled`, and what a step throws. */
export function takePart(registry: Registry, pass: Pass, control: Int32Array): void {
  const isCancelled = (): boolean => isEnded(control)
  try {
    pass.units.forEach((unit, i) => {
      doTiles(registry, pass, unit, control, i, isCancelled)
      waitFor(unit, control, i)
    })
  } catch (error) {
    // The others need not go on.
    endPass(control)
    throw error
  }
}

function doTiles(
  registry: Registry,
  pass: Pass,
  unit: Unit,
  control: Int32Array,
  index: number,
  isCancelled: () => boolean,
): void {
  const tiles = tilesOf(unit)
  const taken = UNITS + 2 * index
  if (Atomics.load(control, taken) >= tiles) return
  withUnit(registry, pass, unit, isCancelled, (doTile) => {
    for (let tile = Atomics.add(control, taken, 1); tile < tiles; tile = Atomics.add(control, taken, 1)) {
      checkWanted(isCancelled)
      doTile(tile)
      if (Atomics.add(control, taken + 1, 1) + 1 === tiles) signal(control)
    }
  })
}

function waitFor(unit: Unit, control: Int32Array, index: number): void {
  const tiles = tilesOf(unit)
  for (let look = 0; ; look++) {
    const before = Atomics.load(control, SIGNAL)
    if (tilesDone(control, index) >= tiles) return
    if (isEnded(control)) throw new GristError('cancelled', 'The work was cancelled.')
    if (look > LOOKS) Atomics.wait(control, SIGNAL, before, SLEEP)
  }
}

/** A field as other threads are told of it: where its planes lie in shared memory. */
export type PlainField = Omit<Field, 'planes' | 'ids'> & {
  readonly planes: readonly number[]
  readonly ids: number | null
}

/** An image likewise: by level its width, its height and where its texels lie. */
type PlainImage = readonly (readonly [number, number, number])[]

/** What all steps share, with images told likewise. */
export type PlainSetting = Omit<PassSetting, 'images' | 'patches'> & {
  readonly images: ReadonlyMap<string, PlainImage>
  /** Pictures of islands, their typed arrays told by their places (shared-views.ts). */
  readonly patches: readonly unknown[]
}

/** A pass as it goes to other threads. */
export interface PlainPass {
  readonly setting: PlainSetting
  readonly fields: readonly (PlainField | LocalField)[]
  readonly units: readonly Unit[]
}

/** Throws RangeError for a field outside the shared memory. */
export function plainField(field: Field, shared: SharedMemory): PlainField {
  const at = (plane: ArrayBufferView): number => placeIn(plane, shared)
  return { ...field, planes: field.planes.map(at), ids: field.ids && at(field.ids) }
}

function placeIn(view: ArrayBufferView, shared: SharedMemory): number {
  const offset = shared.offsetOf(view)
  if (offset < 0) throw new RangeError('a field of a pass lies outside the memory that its threads share')
  return offset
}

/** Throws RangeError for an image outside the shared memory. */
export const plainSetting = (setting: PassSetting, shared: SharedMemory): PlainSetting => ({
  ...setting,
  patches: [...(setting.patches ?? [])].map((one) => withPlaces(one, shared)),
  images: new Map(
    [...setting.images].map(([key, { levels }]) => [
      key,
      levels.map(({ width, height, texels }) => [width, height, placeIn(texels, shared)] as const),
    ]),
  ),
})

export function settingFrom(setting: PlainSetting): PassSetting {
  const memory = memoryHere()!
  const images = [...setting.images].map(([key, levels]) => {
    const made = levels.map(([width, height, at]) => {
      const count = 4 * width * height
      return { width, height, texels: new Float32Array(memory.reaching(at + 4 * count), at, count) }
    })
    return [key, { levels: made }] as const
  })
  const patches = setting.patches.map((one) => withViews(one, memory) as readonly [number, PatchSet])
  return { ...setting, images: new Map(images), patches: new Map(patches) }
}

/** The same field on a thread that works in the same memory (useMemory). */
export function fieldFrom({ planes, ids, ...field }: PlainField): Field {
  const count = field.stride === 0 ? field.width : field.rows * field.width
  const buffer = memoryHere()!.reaching(Math.max(0, ...planes, ids ?? 0) + 4 * count)
  return {
    ...field,
    planes: planes.map((at) => new Float32Array(buffer, at, count)),
    ids: ids === null ? null : new Uint32Array(buffer, ids, count),
  }
}

export const plainPass = (pass: Pass, shared: SharedMemory): PlainPass => ({
  setting: plainSetting(pass.setting, shared),
  units: pass.units,
  fields: pass.fields.map((field) => ('local' in field ? field : plainField(field, shared))),
})

export const passFrom = (pass: PlainPass): Pass => ({
  setting: settingFrom(pass.setting),
  units: pass.units,
  fields: pass.fields.map((field) => ('local' in field ? field : fieldFrom(field))),
})
