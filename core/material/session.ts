import { Composition } from '../compose/composition'
import { expandPartial } from '../compose/expand'
import type { OutputOptions } from '../compose/outputs'
import type { Output } from '../document/address'
import { formatOutput } from '../document/address'
import type { MaterialDocument } from '../document/document'
import { metresOf } from '../document/domain'
import type { Patch } from '../document/patches'
import { patched } from '../document/patches'
import type { BandSink, EngineHost, EvaluateRequest, EvaluationReport } from '../engine/evaluate'
import { evaluateBands, evaluateFields, forecastOf } from '../engine/evaluate'
import { costOf } from '../engine/costs'
import { GristError } from '../errors'
import type { Field } from '../field/field'
import { tileSize } from '../field/field'
import { contentKey } from '../graph/content-key'
import type { Graph, PortRef, Step } from '../graph/graph'
import type { Registry } from '../graph/registry'

/** What is asked of a session. Results are found by the text of their output (formatOutput). */
export interface SessionRequest extends Omit<EvaluateRequest, 'graph' | 'outputs'> {
  readonly outputs: readonly Output[]
  readonly options?: OutputOptions
}

/** What is known of a request with which something is wrong. */
export interface PartialReport {
  /** What is wrong with outputs: with those that were made without it, and with those that could not be made at all. */
  readonly faults: ReadonlyMap<string, GristError>
  /** What each output that was made holds, whatever its size: equal keys, equal content. */
  readonly keys: ReadonlyMap<string, string>
  readonly report: EvaluationReport
}

/** What could be made of what was asked for. */
export interface PartialResult extends PartialReport {
  readonly fields: ReadonlyMap<string, Field>
}

/**
 * An open document and the one way to evaluate it: preview, bakes, checks, the command line, the demo and benchmarks come
 * through here. Edits reach it as documents that share what they did not touch, or as patches; where only numbers differ,
 * the graph stays and its steps get new parameters.
 */
export class MaterialSession {
  private composition: Composition | null = null
  /** The document of `composition`. */
  private composed: MaterialDocument | null = null
  /** Evaluations under way that plan again later, so that the graph under them has to stay. */
  private planning = 0
  /** Nodes of this document that could not be evaluated, and why. */
  private failed = new Map<string, GristError>()

  constructor(
    private current: MaterialDocument,
    private readonly registry: Registry,
    private readonly host: EngineHost,
  ) {}

  get document(): MaterialDocument {
    return this.current
  }

  /** Goes over to another document. */
  update(document: MaterialDocument): void {
    this.current = document
  }

  /** Throws where a path leads nowhere. */
  apply(patches: readonly Patch[]): void {
    this.update(patched(this.current, patches))
  }

  /** Size of the raster at a width. Throws size-invalid. */
  sizeAt(width: number): { width: number; height: number } {
    return tileSize(width, metresOf(this.current))
  }

  /** Evaluates outputs whole. Throws what is wrong with any of them, size-invalid, memory-budget, asset-missing, cancelled. */
  async evaluate(request: SessionRequest): Promise<{ fields: ReadonlyMap<string, Field>; report: EvaluationReport }> {
    const asked = this.requestFor(request)
    return this.whilePlanning(() => evaluateFields(this.host, asked))
  }

  /** The same band by band, in bands that keep to the budget. */
  async evaluateBands(request: SessionRequest, sink: BandSink): Promise<EvaluationReport> {
    const asked = this.requestFor(request)
    return this.whilePlanning(() => evaluateBands(this.host, asked, sink))
  }

  /** Evaluates what can be made; a node that fails passes through what comes in, or is left out. Throws cancelled. */
  async evaluatePartial(request: SessionRequest): Promise<PartialResult> {
    return this.partial(request, (asked) => evaluateFields(this.host, asked, { keepUniform: true }))
  }

  /**
   * The same band by band, in bands that keep to the budget. Where a node fails after some bands, they come again from the
   * top, without it.
   */
  async evaluatePartialBands(request: SessionRequest, sink: BandSink): Promise<PartialReport> {
    return this.partial(request, (asked) =>
      this.whilePlanning(async () => ({ report: await evaluateBands(this.host, asked, sink) })),
    )
  }

  /** What the outputs that can be made would take at the most. Throws size-invalid, memory-budget. */
  forecast({ outputs, options, ...request }: SessionRequest): ReturnType<typeof forecastOf> {
    const graph = expandPartial(this.compose(), outputs, options)
    return forecastOf({ ...request, graph, outputs: [...graph.outputs.keys()] })
  }

  private async partial<T extends { readonly report: EvaluationReport }>(
    { outputs, options, ...request }: SessionRequest,
    work: (asked: EvaluateRequest) => Promise<T>,
  ): Promise<T & PartialReport> {
    for (;;) {
      const graph = expandPartial(this.compose(), outputs, options)
      const keys = new Map([...graph.outputs].map(([name, ref]) => [name, keyOf(ref)]))
      try {
        return { ...(await work({ ...request, graph, outputs: [...keys.keys()] })), faults: graph.faults, keys }
      } catch (error) {
        const failed = error instanceof GristError && error.code !== 'cancelled' ? error : null
        const node = failed?.place.node
        if (node === undefined || this.failed.has(node)) throw error
        this.failed.set(node, failed!)
        this.composition = null
      }
    }
  }

  /** Content keys of outputs at a width, for records. */
  contentKeys({ outputs, options, width }: SessionRequest): Record<string, string> {
    const { width: w, height: h } = this.sizeAt(width)
    const composition = this.compose()
    const known = new Map<Step, string>()
    return Object.fromEntries(
      outputs.map((output) => {
        const ref = composition.ref(output, options)
        return [formatOutput(output), `${contentKey(ref.step, composition.graph.domain, known)}@${w}x${h}.${ref.port}`]
      }),
    )
  }

  /** Forecast work of outputs beside each other, by their texts: what several are made from is shared evenly. */
  workOf({ outputs, options }: Pick<SessionRequest, 'outputs' | 'options'>): Record<string, number> {
    const composition = this.compose()
    const reached = outputs.map((output) => stepsBehind(composition.ref(output, options).step))
    const readers = new Map<Step, number>()
    for (const steps of reached) for (const step of steps) readers.set(step, (readers.get(step) ?? 0) + 1)
    return Object.fromEntries(
      outputs.map((output, i) => [
        formatOutput(output),
        [...reached[i]!].reduce((sum, step) => sum + (step.uniform ? 0 : costOf(step)) / readers.get(step)!, 0),
      ]),
    )
  }

  /** What outputs hold, whatever their size (PartialReport.keys); those that cannot be built are left out. */
  keysOf(outputs: readonly Output[]): ReadonlyMap<string, string> {
    const { outputs: refs } = expandPartial(this.compose(), outputs)
    return new Map([...refs].map(([name, ref]) => [name, keyOf(ref)]))
  }

  /** Whether an output is one value everywhere, or cannot be made. */
  isUniform(output: Output): boolean {
    return this.compose().find(output).ref?.step.uniform ?? true
  }

  /** What an output carries, made of what can be. Throws what composing it throws where that is nothing. */
  typeOf(output: Output): Field['type'] {
    const composition = this.compose()
    const { step, port } = composition.find(output).ref ?? composition.ref(output)
    return step.outputs[port]!
  }

  private requestFor({ outputs, options, ...request }: SessionRequest): EvaluateRequest {
    const composition = this.compose()
    const refs = new Map(outputs.map((output) => [formatOutput(output), composition.ref(output, options)]))
    const graph: Graph = { ...composition.graph, outputs: refs }
    return { ...request, graph, outputs: [...refs.keys()] }
  }

  /** The graph of the document as it is now. */
  private compose(): Composition {
    if (this.composition && this.composed === this.current) return this.composition
    if (this.composed !== this.current) this.failed = new Map()
    const follows = this.composition !== null && this.planning === 0 && this.composition.follow(this.current)
    if (!follows) {
      this.composition = null
      this.composition = new Composition(this.current, this.registry, this.failed)
    }
    this.composed = this.current
    return this.composition!
  }

  private async whilePlanning<T>(work: () => Promise<T>): Promise<T> {
    this.planning++
    try {
      return await work()
    } finally {
      this.planning--
    }
  }
}

/** The one door to what a document comes to. `host` brings threads, images and, for a preview, a cache. */
export const openMaterial = (document: MaterialDocument, registry: Registry, host: EngineHost): MaterialSession =>
  new MaterialSession(document, registry, host)

/** A step and all that it is made from. */
function stepsBehind(last: Step): Set<Step> {
  const found = new Set<Step>()
  const open = [last]
  for (let step = open.pop(); step; step = open.pop()) {
    if (found.has(step)) continue
    found.add(step)
    open.push(...step.reads.map((read) => read.step))
  }
  return found
}

const keyOf = ({ step, port }: PortRef): string => `${step.digest}.${port}`
