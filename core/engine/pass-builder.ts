import type { Field } from '../field/field'
import { NEAREST, patchCount } from '../field/patches'
import type { Executor, LocalField, PassSetting, PassStep, StepsUnit, Unit } from './pass'
import { tilesOf } from './pass'
import type { Plan } from './plan'
import type { PlannedStep } from './planned-step'
import { stepCost } from './planned-step'
import type { PlannedUnit } from './units'
import { LocalPlanes } from './units'

/** Texels of a tile where several steps go over it: what they hand on stays in a processor's cache. */
const TILE = 12288
/** Fewest rows that a thread takes at a time where a step stands alone: it may do some work once a tile. */
const MIN_ROWS = 16
/** Tiles a thread where a step stands alone: so that a thread that comes late is no loss. */
const TILES = 2

/** How a step is done over islands. */
interface OverIslands {
  readonly reach: number
  readonly rooms: IslandRooms
  /** Of its work as on a tile; 0 where one thread does it. */
  readonly phases: number
  readonly sliceable: boolean
}

/** Room for a step over islands, by port. */
export interface IslandRooms {
  /** What islands hold beyond their borders, where both sides of seams are mixed. */
  readonly taps: Readonly<Record<string, Field>>
  /** Where the patches are coarse: its inputs padded beyond islands, and then coarse; and its outputs as on a tile and over islands. */
  readonly coarse: {
    readonly padded: Readonly<Record<string, Field>>
    readonly inputs: Readonly<Record<string, Field>>
    readonly plain: Readonly<Record<string, Field>>
    readonly over: Readonly<Record<string, Field>>
    /** How far its results go from one side of seams to the other, where that is taken back. */
    readonly steps: Readonly<Record<string, Field>>
  } | null
}

/** Collects units of a plan until they are run; then goes on with the next ones. */
export class PassBuilder {
  private fields: (Field | LocalField)[] = []
  private places = new Map<Field, number>()
  private units: Unit[] = []
  /** Of each unit: forecast nanoseconds, and its number in the plan. */
  private costs: { readonly cost: number; readonly number: number }[] = []
  private readonly total: number
  private doneCost = 0
  /** Units of the plan, by their numbers there, of which every tile was made. */
  readonly completed = new Set<number>()
  private added = 0

  constructor(
    private readonly plan: Plan,
    private readonly setting: PassSetting,
    private readonly threads: number,
    private readonly onProgress: (ratio: number) => void,
  ) {
    this.total = plan.units.reduce((sum, unit) => sum + this.costOf(unit), 0)
  }

  addCopy(source: Field, target: Field, from: number, to: number): void {
    this.units.push({ kind: 'copy', source: this.placeOf(source), target: this.placeOf(target), from, to })
    this.costs.push({ cost: 0, number: -1 })
  }

  /** Adds the plan's next unit; its fields are found by key and port. */
  addUnit(
    unit: PlannedUnit,
    fields: ReadonlyMap<string, Field>,
    prepared: ReadonlyMap<string, unknown>,
    scratch: Field | null,
    rooms: IslandRooms | null = null,
  ): void {
    const { steps, local } = this.plan
    const planes = new LocalPlanes()
    const locals = new Map<string, number>()
    const lastReader = this.lastReaders(unit)
    const placeAt = (name: string): number => locals.get(name) ?? this.placeOf(fields.get(name)!)
    const passSteps = unit.map((at): PassStep => {
      const { step, params, key, ports } = steps[at]!
      const outputs: Record<string, number> = {}
      for (const port of ports) {
        if (local[at]) {
          const type = step.outputs[port]!
          locals.set(`${key}.${port}`, this.fields.push({ type, local: planes.take(type) }) - 1)
        }
        outputs[port] = placeAt(`${key}.${port}`)
      }
      const inputs: Record<string, number | null> = {}
      for (const [name, ref] of Object.entries(step.inputs))
        inputs[name] = ref && placeAt(`${this.stepOf(ref.step.index).key}.${ref.port}`)
      for (const from of lastReader.get(at) ?? [])
        for (const port of steps[from]!.ports)
          planes.give((this.fields[locals.get(`${steps[from]!.key}.${port}`)!] as LocalField).local)
      const own = { type: step.node.type, params, inputs, outputs, prepared: prepared.get(key) }
      return scratch ? { ...own, scratch: this.placeOf(scratch) } : own
    })
    const { from, to } = this.rowsOf(unit)
    const [first] = passSteps
    const { reach } = steps[unit[0]!]!
    const phases = this.phasesOf(unit, scratch)
    const number = this.added++
    const one = { kind: 'steps', steps: passSteps, from, to, localPlanes: planes.count } as const
    if (reach !== undefined && reach > 0) {
      const { sliceable } = steps[unit[0]!]!
      this.addIslands(
        { ...one, steps: [first!] },
        { reach, rooms: rooms!, phases, sliceable },
        number,
        this.costOf(unit),
      )
      return
    }
    if (phases > 0) return this.addPhases({ ...one, steps: [first!] }, phases, this.costOf(unit), number)
    this.units.push({ ...one, tileRows: this.tileRows(unit, to - from) })
    this.costs.push({ cost: this.costOf(unit), number })
  }

  /** All rows are there, so each phase is over all of them; the last one's end is the unit's. */
  private addPhases(one: Omit<StepsUnit, 'tileRows'>, phases: number, cost: number, number: number): void {
    for (let phase = 0; phase < phases; phase++) {
      this.units.push({ ...one, steps: [{ ...one.steps[0]!, phase }], tileRows: this.sliceRows(one.to - one.from) })
      this.costs.push({ cost: cost / phases, number: phase === phases - 1 ? number : -1 })
    }
  }

  /**
   * Adds a step over islands: each as the surface goes on around it, and then what belongs to none, from the nearest. Where it reads far it
   * is done as on a tile first; islands are coarse fields then, from which only the difference comes.
   */
  private addIslands(
    one: Omit<StepsUnit, 'tileRows'>,
    { reach, rooms, phases, sliceable }: OverIslands,
    number: number,
    cost: number,
  ): void {
    const { taps, coarse } = rooms
    const tile = (rows: number): number => (sliceable ? this.sliceRows(rows) : Math.max(1, rows))
    const add = (unit: Unit): void => {
      this.units.push(unit)
      this.costs.push({ cost: 0, number: -1 })
    }
    const [step] = one.steps
    const placesOf = (fields: Readonly<Record<string, Field>>): Record<string, number> =>
      Object.fromEntries(Object.entries(fields).map(([name, field]) => [name, this.placeOf(field)]))
    let { outputs, inputs } = step!
    const { coarse: times } = this.setting.patches!.get(reach)!
    const { from, to } = one
    const [high, rows] = [to - from, this.setting.height / times]
    const scale = times === 1 ? {} : { coarse: times }
    const brought = (
      kind: 'pad' | 'shrink',
      fields: Readonly<Record<string, Field>>,
      height: number,
    ): typeof inputs => {
      const places = placesOf(fields)
      for (const [name, target] of Object.entries(places)) {
        const end = fields[name]!.stride === 0 ? 1 : height
        add({ kind, reach, sources: [inputs[name]!], target, from: 0, to: end, tileRows: this.sliceRows(height) })
      }
      return { ...inputs, ...places }
    }
    if (coarse) {
      inputs = brought('pad', coarse.padded, high)
      if (phases > 0) this.addPhases({ ...one, steps: [{ ...step!, inputs }] }, phases, cost / 3, -1)
      else {
        add({ ...one, steps: [{ ...step!, inputs }], tileRows: tile(high) })
        this.costs[this.costs.length - 1] = { cost: cost / 3, number: -1 }
      }
      inputs = brought('shrink', coarse.inputs, rows)
      const onTile = { ...step!, inputs, outputs: placesOf(coarse.plain) }
      add({ ...one, ...scale, steps: [onTile], from: 0, to: rows, tileRows: tile(rows) })
      outputs = placesOf(coarse.over)
    }
    const count = patchCount(this.setting.patches!.get(reach)!)
    const overIslands = { ...step!, inputs, outputs }
    add({ ...one, ...scale, steps: [overIslands], from: 0, to: count, tileRows: 1, reach, taps: placesOf(taps) })
    this.costs[this.costs.length - 1] = { cost, number: -1 }
    for (const [port, place] of Object.entries(placesOf(taps)))
      add({
        kind: 'mix',
        target: outputs[port]!,
        taps: place,
        reach,
        from: 0,
        to: rows,
        tileRows: this.sliceRows(rows),
      })
    if (coarse)
      for (const port of Object.keys(coarse.over)) {
        const sources = [this.placeOf(coarse.plain[port]!), outputs[port]!]
        const { from, to } = one
        add({
          kind: 'raise',
          reach,
          sources,
          target: step!.outputs[port]!,
          from,
          to,
          tileRows: this.sliceRows(to - from),
        })
      }
    if (coarse) {
      for (const [port, target] of Object.entries(placesOf(coarse.steps))) {
        const to = coarse.steps[port]!.width
        const source = step!.outputs[port]!
        add({ kind: 'steps-over', source, target, reach, from: 0, to, tileRows: this.sliceRows(to) })
      }
      for (const [port, taps] of Object.entries(placesOf(coarse.steps)))
        add({ kind: 'fade', target: step!.outputs[port]!, taps, reach, from, to, tileRows: this.sliceRows(high) })
    } else
      for (const target of Object.values(outputs))
        add({ kind: 'fill', reach: NEAREST, sources: [], target, from, to, tileRows: this.sliceRows(high) })
    // It is done with the last of them.
    this.costs[this.costs.length - 1] = { ...this.costs.at(-1)!, number }
  }

  /** Phases that threads do a unit in together; 0 where one does it alone. */
  private phasesOf(unit: PlannedUnit, scratch: Field | null): number {
    return scratch && this.threads > 1 ? (this.plan.steps[unit[0]!]!.step.node.phases ?? 0) : 0
  }

  /** Does what was added, and begins anew. Throws what the executor throws. */
  async run(executor: Executor, isCancelled: () => boolean): Promise<void> {
    const { fields, units, costs, setting } = this
    if (units.length === 0) return
    this.fields = []
    this.places = new Map()
    this.units = []
    this.costs = []
    const before = this.doneCost
    await executor.run(
      { setting, fields, units },
      {
        isCancelled,
        onProgress: (tilesDone) => {
          let done = before
          units.forEach((unit, at) => {
            const [tiles, { cost, number }] = [tilesOf(unit), costs[at]!]
            const ratio = tiles === 0 ? 1 : tilesDone(at) / tiles
            done += cost * ratio
            if (ratio === 1 && number >= 0) this.completed.add(number)
          })
          this.doneCost = done
          this.onProgress(this.total === 0 ? 1 : Math.min(1, done / this.total))
        },
      },
    )
    for (const { number } of costs) if (number >= 0) this.completed.add(number)
  }

  private placeOf(field: Field): number {
    const known = this.places.get(field)
    if (known !== undefined) return known
    const place = this.fields.push(field) - 1
    this.places.set(field, place)
    return place
  }

  private stepOf(index: number): PlannedStep {
    return this.plan.steps[this.plan.places[index]!]!
  }

  /** By step of a unit: the local steps that nobody after it reads. */
  private lastReaders(unit: PlannedUnit): ReadonlyMap<number, readonly number[]> {
    const { steps, places, local } = this.plan
    const last = new Map<number, number>()
    for (const at of unit) {
      if (local[at]) last.set(at, at)
      for (const from of steps[at]!.step.feeding) if (local[places[from]!]) last.set(places[from]!, at)
    }
    const by = new Map<number, number[]>()
    for (const [from, at] of last) by.set(at, [...(by.get(at) ?? []), from])
    return by
  }

  private rowsOf(unit: PlannedUnit): { from: number; to: number } {
    const { step, from, band } = this.plan.steps[unit[0]!]!
    return step.uniform ? { from: 0, to: 1 } : { from, to: band.top + band.rows }
  }

  private tileRows(unit: PlannedUnit, rows: number): number {
    const { sliceable } = this.plan.steps[unit[0]!]!
    if (!sliceable) return Math.max(1, rows)
    if (unit.length > 1) return Math.max(1, Math.round(TILE / this.setting.width))
    return this.sliceRows(rows)
  }

  private sliceRows(rows: number): number {
    if (this.threads === 1) return Math.max(1, rows)
    return Math.max(MIN_ROWS, Math.ceil(rows / (this.threads * TILES)))
  }

  private costOf(unit: PlannedUnit): number {
    return unit.reduce((sum, at) => sum + stepCost(this.plan.steps[at]!, this.plan.width), 0)
  }
}
