import { produce } from 'immer'
import type { Output } from '../document/address'
import { channelOutput } from '../document/address'
import { channelsOf } from '../document/channels'
import type { MaterialDocument, Source } from '../document/document'
import { without } from '../document/edits/focus'
import { forEachSource } from '../document/edits/nodes'
import { inputSources, nodeOf } from '../document/sources'
import type { EngineHost } from '../engine/evaluate'
import { FieldCache } from '../engine/field-cache'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Registry } from '../graph/registry'
import { encodedTexel } from '../kernels/srgb'
import type { MaterialSession } from './session'
import { openMaterial } from './session'

/** What a node costs, and what it does to the material. */
export interface NodeWeight {
  /** Milliseconds that its outputs take, what it reads being there, and without its amount. */
  readonly milliseconds: number
  /** How much the material changes without it: by channel, the root of the mean square of the change, of 0–1 as it is seen. */
  readonly change: Readonly<Record<string, number>>
}

/** Under half a step of eight bits nobody sees a change: 0.5/255. */
export const UNSEEN = 0.5 / 255
/** Width of the pictures that changes are measured on. */
const CHANGE_WIDTH = 128
/** Bytes of fields kept between nodes. */
const KEPT = 192 << 20

/** The channel that changes most, and how much; null where none does. */
export function greatestChange({ change }: Pick<NodeWeight, 'change'>): { channel: string; rms: number } | null {
  const [most] = Object.entries(change).sort(([, a], [, b]) => b - a)
  return most && most[1] > 0 ? { channel: most[0], rms: most[1] } : null
}

/** Nodes that something reads, each after what it reads. */
export function weighedNodes(document: MaterialDocument): string[] {
  const order: string[] = []
  const seen = new Set<string>()
  const visit = (source: Source): void => {
    const id = nodeOf(document, source)
    if (id === null || seen.has(id) || !Object.hasOwn(document.nodes, id)) return
    seen.add(id)
    inputSources(document.nodes[id]).forEach(visit)
    order.push(id)
  }
  forEachSource(document, (source, _, { kind }) => void (kind !== 'input' && visit(source)))
  return order
}

/** A cache beside another: what is hidden of that one is made again, and kept here until it is let go. */
class Beside extends FieldCache {
  constructor(
    private readonly inner: FieldCache,
    private readonly isHidden: (key: string) => boolean,
    onDropped: (field: Field) => void,
  ) {
    super(KEPT, onDropped)
  }

  override has(key: string): boolean {
    return this.isHidden(key) ? super.has(key) : this.inner.has(key)
  }

  override get(key: string): Field | undefined {
    return this.isHidden(key) ? super.get(key) : this.inner.get(key)
  }

  override put(key: string, field: Field): boolean {
    return this.isHidden(key) ? super.put(key, field) : this.inner.put(key, field)
  }
}

/** Measures the nodes of one document, one after the other. What it keeps goes with `end`. */
export class Weighing {
  private readonly cache: FieldCache
  private before: ReadonlyMap<string, Field> | null = null
  private readonly channels: readonly Output[]

  constructor(
    private readonly document: MaterialDocument,
    private readonly registry: Registry,
    private readonly host: Omit<EngineHost, 'cache'>,
    /** Width at which nodes are timed. */
    private readonly width: number,
    private readonly onDropped: (field: Field) => void,
    private readonly now: () => number = () => performance.now(),
  ) {
    this.cache = new FieldCache(KEPT, onDropped)
    this.channels = channelsOf(document).map(({ id }) => channelOutput(id))
  }

  /** Throws cancelled. A node that is off, or that fails, costs and changes nothing. */
  async weigh(node: string, isCancelled: () => boolean = () => false): Promise<NodeWeight> {
    return { milliseconds: await this.time(node, isCancelled), change: await this.changes(node, isCancelled) }
  }

  /** Lets all fields go. */
  end(): void {
    this.cache.clear()
    this.before = null
  }

  private open(document: MaterialDocument, cache: FieldCache): MaterialSession {
    return openMaterial(document, this.registry, { ...this.host, cache })
  }

  private async time(node: string, isCancelled: () => boolean): Promise<number> {
    const { width } = this
    const held = this.document.nodes[node]
    const definition = held && this.registry.get(held.type)
    if (!definition || held.off) return 0
    // Its amount is a step of its own.
    const document = produce(this.document, (draft) => void delete draft.nodes[node]!.amount)
    const outputs = Object.keys(definition.outputs).map((port): Output => ({ kind: 'port', node, port }))
    const session = this.open(document, this.cache)
    const { keys } = await session.evaluatePartial({ outputs, width, isCancelled })
    const own = [...keys.values()].map((key) => key.slice(0, key.lastIndexOf('.') + 1))
    // Once more, now that all that it reads is there.
    const beside = new Beside(this.cache, (key) => own.some((digest) => key.startsWith(digest)), this.onDropped)
    const begun = this.now()
    await this.open(document, beside).evaluatePartial({ outputs, width, isCancelled })
    const milliseconds = this.now() - begun
    beside.clear()
    return milliseconds
  }

  private async changes(node: string, isCancelled: () => boolean): Promise<NodeWeight['change']> {
    if (this.document.nodes[node]?.off) return {}
    const request = { outputs: this.channels, width: CHANGE_WIDTH, isCancelled }
    this.before ??= (await this.open(this.document, this.cache).evaluatePartial(request)).fields
    const { fields } = await this.open(without(this.document, { node }), this.cache).evaluatePartial(request)
    return Object.fromEntries(
      [...this.before].flatMap(([channel, field]) => {
        const other = fields.get(channel)
        return other ? [[channel, other === field ? 0 : difference(field, other)]] : []
      }),
    )
  }
}

/** Root of the mean square of the difference of two fields of one size, of 0–1 as pictures show them. */
export function difference(a: Field, b: Field): number {
  const shown = a.type === 'colour' ? encodedTexel : (v: number): number => v
  // Directions go from −1 to 1.
  const scale = a.type === 'normal' || a.type === 'vector' ? 0.5 : 1
  let sum = 0
  a.planes.forEach((plane, p) => {
    const other = b.planes[p]!
    for (let y = 0; y < a.height; y++) {
      const [i, j] = [rowStart(a, y), rowStart(b, y)]
      for (let x = 0; x < a.width; x++) {
        const [v, w] = [plane[i + x]!, other[j + x]!]
        if (v !== w) sum += ((shown(v) - shown(w)) * scale) ** 2
      }
    }
  })
  return Math.sqrt(sum / (a.width * a.height * a.planes.length))
}
