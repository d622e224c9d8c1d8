import type { Executor, Pass, PassSignals, PrepareTask } from '#core/engine/pass'
import { runPrepare } from '#core/engine/pass'
import type { PlainField, PlainPass, PlainSetting } from '#core/engine/shared-pass'
import {
  controlBlock,
  endPass,
  fieldFrom,
  isEnded,
  takeTile,
  tellTileDone,
  passFrom,
  plainField,
  plainPass,
  plainSetting,
  settingFrom,
  takePart,
  tilesDone,
} from '#core/engine/shared-pass'
import { GristError } from '#core/errors'
import type { Allocate } from '#core/field/field'
import { Heap, SharedMemory } from '#core/field/heap'
import { withPlaces, withViews } from '#core/field/shared-views'
import type { IslandWork } from '#core/kernels/island-borders'
import { IslandBlocks } from '#core/kernels/island-borders'
import { memoryHere, useMemory } from '#core/kernels/simd'
import type { BakeThreads } from '#core/mesh/bake-part'
import type { BakeJob } from '#core/mesh/bake-rows'
import { RowsBaker } from '#core/mesh/bake-rows'
import type { FinishWork } from '#core/mesh/finish-bake'
import { finishBlock } from '#core/mesh/finish-bake'
import { registry } from '#core/nodes/registry.generated'
import type { BandCoders, BandTask, CodeHost, CodedBand } from '#core/texture/code-band'
import { codeBand } from '#core/texture/code-band'
import type { TaskFailure } from './task-outcome'
import { failureOf, raise } from './task-outcome'

type PlainPrepare = Omit<PrepareTask, 'inputs' | 'setting'> & {
  readonly inputs: Readonly<Record<string, PlainField | null>>
  readonly setting: PlainSetting
}

/** What a thread is told: the memory it works in, its number, and those of all memories that threads may be told of again. */
export interface ThreadMessage {
  readonly memory: WebAssembly.Memory
  readonly memoryNumber: number
  readonly inUse: readonly number[]
  readonly control: Int32Array
  readonly work:
    | { readonly pass: PlainPass }
    | { readonly prepare: PlainPrepare }
    | { readonly band: PlainBand }
    /** A job of mesh data, or what goes on beyond islands; arrays by their places. */
    | { readonly mesh: unknown }
    | { readonly islands: unknown }
    | { readonly finish: unknown }
}

type PlainBand = Omit<BandTask, 'fields'> & { readonly fields: ReadonlyMap<string, PlainField> }

export type ThreadOutcome = TaskFailure | { readonly prepared?: unknown; readonly coded?: CodedBand }

type BakeSignals = Parameters<BakeThreads['bakeMesh']>[1]

/** Does what a message says, on this thread. Faults of ours are thrown as they are. */
export function doMessage(
  { memory, memoryNumber, inUse, control, work }: ThreadMessage,
  host: CodeHost = {},
): ThreadOutcome {
  useMemory(memory, memoryNumber, inUse)
  try {
    if ('pass' in work) {
      takePart(registry, passFrom(work.pass), control)
      return {}
    }
    if ('mesh' in work) {
      const job = withViews(work.mesh, memoryHere()!) as BakeJob
      const baker = new RowsBaker(job, () => checkWanted(control))
      takeBlocks(RowsBaker.blocksOf(job), (block) => baker.bake(block), control)
      return {}
    }
    if ('islands' in work) {
      const islands = withViews(work.islands, memoryHere()!) as IslandWork
      const blocks = new IslandBlocks(islands, () => checkWanted(control))
      takeBlocks(IslandBlocks.count(islands), (block) => blocks.do(block), control)
      return {}
    }
    if ('finish' in work) {
      const finish = withViews(work.finish, memoryHere()!) as FinishWork
      takeBlocks(finish.blocks.length, (block) => finishBlock(finish, block), control)
      return {}
    }
    if ('band' in work) {
      const fields = new Map([...work.band.fields].map(([name, field]) => [name, fieldFrom(field)]))
      return { coded: codeBand({ ...work.band, fields }, host) }
    }
    const inputs = Object.fromEntries(
      Object.entries(work.prepare.inputs).map(([name, field]) => [name, field && fieldFrom(field)]),
    )
    const setting = settingFrom(work.prepare.setting)
    return { prepared: runPrepare(registry, { ...work.prepare, inputs, setting }, () => isEnded(control)) }
  } catch (error) {
    if (!(error instanceof GristError)) throw error
    return failureOf(error)
  }
}

/** Throws cancelled. */
function checkWanted(control: Int32Array): void {
  if (isEnded(control)) throw new GristError('cancelled', 'The work was cancelled.')
}

/** Does blocks until none is left. Throws cancelled. */
function takeBlocks(count: number, doBlock: (block: number) => void, control: Int32Array): void {
  for (let block = takeTile(control, 0); block < count; block = takeTile(control, 0)) {
    checkWanted(control)
    doBlock(block)
    tellTileDone(control, 0)
  }
}

/** Coding a strip takes a few hundredths of a second and is not cancelled by itself. */
const NO_CONTROL = new Int32Array(0)

/** Milliseconds between looks at whether work is still wanted and how far it is. */
const LOOK = 16
/** A heap that grew beyond so many bytes is left to the collector once nothing lies in it, as memory never shrinks. */
const KEPT_BYTES = 512 << 20

/** Threads know memories by these numbers; executors may share threads. */
let memories = 0
const inUse = new Set<number>()

function nextNumber(): number {
  inUse.add(++memories)
  return memories
}

/** An executor over threads that each get messages by `send`; fields lie in memory that all of them share. */
export class SharedExecutor implements Executor, BandCoders, BakeThreads {
  private heap = new Heap(newMemory())
  private number = nextNumber()

  /** How many of the threads take part in what begins now. */
  private atWork: number

  constructor(
    /** Threads that there are. */
    private readonly count: number,
    private readonly send: (message: ThreadMessage) => Promise<ThreadOutcome>,
  ) {
    this.atWork = count
  }

  get threads(): number {
    return this.atWork
  }

  /** Leaves some threads idle from now on, or none; one is always at work. */
  leaveIdle(idle: number): void {
    this.atWork = Math.max(1, this.count - idle)
  }

  readonly allocate: Allocate = (bytes) => {
    if (this.heap.usedBytes === 0 && this.heap.shared.buffer.byteLength > KEPT_BYTES) {
      this.heap = new Heap(newMemory())
      inUse.delete(this.number)
      this.number = nextNumber()
    }
    return this.heap.allocate(bytes)
  }

  readonly free = (region: ArrayBufferView): void => this.heap.free(region)

  end(): void {
    inUse.delete(this.number)
  }

  async run(pass: Pass, { isCancelled, onProgress }: PassSignals): Promise<void> {
    const control = controlBlock(pass.units.length)
    const message = this.messageOf(control, { pass: plainPass(pass, this.heap.shared) })
    const look = (): void => {
      if (isCancelled()) endPass(control)
      onProgress?.((unit) => tilesDone(control, unit))
    }
    await this.watched(
      control,
      look,
      Array.from({ length: this.threads }, () => message),
    )
  }

  async prepare({ inputs, ...task }: PrepareTask, isCancelled: () => boolean): Promise<unknown> {
    const { shared } = this.heap
    const control = controlBlock(0)
    const plain = Object.fromEntries(
      Object.entries(inputs).map(([name, field]) => [name, field && plainField(field, shared)]),
    )
    const message = this.messageOf(control, {
      prepare: { ...task, inputs: plain, setting: plainSetting(task.setting, shared) },
    })
    const look = (): void => {
      if (isCancelled()) endPass(control)
    }
    const [outcome] = await this.watched(control, look, [message])
    return outcome!.prepared
  }

  async code({ fields, ...task }: BandTask): Promise<CodedBand> {
    const { shared } = this.heap
    const plain = new Map([...fields].map(([name, field]) => [name, plainField(field, shared)]))
    const outcome = await this.send(this.messageOf(NO_CONTROL, { band: { ...task, fields: plain } }))
    return 'error' in outcome ? raise(outcome) : outcome.coded!
  }

  async bakeMesh(job: BakeJob, signals: BakeSignals): Promise<void> {
    await this.doBlocks({ mesh: withPlaces(job, this.heap.shared) }, RowsBaker.blocksOf(job), signals)
  }

  async finishMesh(work: FinishWork, isCancelled: () => boolean): Promise<void> {
    await this.doBlocks({ finish: withPlaces(work, this.heap.shared) }, work.blocks.length, { isCancelled })
  }

  async doIslands(work: IslandWork, isCancelled: () => boolean): Promise<void> {
    await this.doBlocks({ islands: withPlaces(work, this.heap.shared) }, IslandBlocks.count(work), { isCancelled })
  }

  /** Has the threads take blocks of one work. */
  private async doBlocks(
    work: ThreadMessage['work'],
    blocks: number,
    { isCancelled, onProgress }: BakeSignals,
  ): Promise<void> {
    const control = controlBlock(1)
    const message = this.messageOf(control, work)
    const look = (): void => {
      if (isCancelled()) endPass(control)
      onProgress?.(Math.min(1, tilesDone(control, 0) / blocks))
    }
    await this.watched(
      control,
      look,
      Array.from({ length: Math.min(blocks, this.threads) }, () => message),
    )
  }

  private messageOf(control: Int32Array, work: ThreadMessage['work']): ThreadMessage {
    return { memory: this.heap.shared.memory, memoryNumber: this.number, inUse: [...inUse], control, work }
  }

  /** Sends messages and waits until every thread is done with its own, whatever became of the others. */
  private async watched(
    control: Int32Array,
    look: () => void,
    messages: readonly ThreadMessage[],
  ): Promise<readonly { readonly prepared?: unknown }[]> {
    look()
    const timer = setInterval(look, LOOK)
    try {
      const settled = await Promise.allSettled(messages.map((message) => this.outcomeOf(control, message)))
      const results = settled.map((one) => {
        if (one.status === 'rejected') throw one.reason
        return one.value
      })
      const failures = results.filter((result) => 'error' in result)
      // A step's own error comes before what it ended on other threads.
      const told = failures.find(({ error }) => error.code !== 'cancelled') ?? failures[0]
      if (told) raise(told)
      return results as { prepared?: unknown }[]
    } finally {
      clearInterval(timer)
      look()
    }
  }

  private async outcomeOf(control: Int32Array, message: ThreadMessage): Promise<ThreadOutcome> {
    try {
      return await this.send(message)
    } catch (error) {
      // A thread that fails leaves its tile undone: the others must not wait for it.
      endPass(control)
      throw error
    }
  }
}

function newMemory(): SharedMemory {
  const memory = SharedMemory.create()
  if (!memory) throw new GristError('memory-budget', 'This machine has no WebAssembly memory that threads can share.')
  return memory
}
