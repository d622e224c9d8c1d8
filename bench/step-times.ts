/** Times of single steps of the engine on this thread. */
import { createField } from '#core/field/field'
import { localExecutor } from '#core/engine/local-executor'
import type { Executor, Pass } from '#core/engine/pass'
import type { AnyNode } from '#core/graph/define-node'
import { withoutSimd } from '#core/kernels/simd'
import { registry } from '#core/nodes/registry.generated'
import { evaluateExample } from '#core/testing/examples'

/** Texels across and down. */
export const N = 1024

/** Shortest of three, in milliseconds. */
export function best(work: () => void): number {
  let min = Infinity
  for (let i = 0; i < 3; i++) {
    const started = performance.now()
    work()
    min = Math.min(min, performance.now() - started)
  }
  return min
}

/** One step's work alone, over whole fields. */
interface Work {
  readonly type: string
  readonly pass: Pass
}

/** An executor on this thread that does steps one after the other, whole, and adds up the time of each node type. */
export function timed(): { executor: Executor; times: Map<string, number>; works: Work[] } {
  const times = new Map<string, number>()
  const works: Work[] = []
  const local = localExecutor(registry)
  const add = async (type: string, work: () => Promise<unknown>): Promise<unknown> => {
    const started = performance.now()
    const result = await work()
    times.set(type, (times.get(type) ?? 0) + performance.now() - started)
    return result
  }
  const run: Executor['run'] = async (pass, signals) => {
    const { width, height } = pass.setting
    // Whole fields in place of those that would live for a tile.
    const fields = pass.fields.map((field) => ('local' in field ? createField(field.type, width, height) : field))
    for (const unit of pass.units) {
      if (unit.kind !== 'steps') continue
      for (const step of unit.steps) {
        const alone = { ...pass, fields, units: [{ ...unit, steps: [step], tileRows: unit.to - unit.from }] }
        works.push({ type: step.type, pass: alone })
        await add(step.type, () => local.run(alone, signals))
      }
    }
  }
  const prepare: Executor['prepare'] = (task, isCancelled) => add(task.type, () => local.prepare(task, isCancelled))
  return { executor: { ...local, run, prepare }, times, works }
}

export const here = { isCancelled: () => false }

/** Time of a node's own step in its example, with the SIMD twins of its kernels and without. */
export async function timeOf(node: AnyNode): Promise<{ ms: number; plain: number }> {
  const { executor, works } = timed()
  await evaluateExample(node, N, { executor })
  const own = works.filter(({ type }) => type === node.type).at(-1)!
  const run = (): void => void localExecutor(registry).run(own.pass, here)
  return { ms: best(run), plain: best(() => withoutSimd(run)) }
}

/** Milliseconds of a plain loop over as many texels. */
export function plainLoop(): number {
  const [a, b, out] = Array.from({ length: 3 }, () => new Float32Array(N * N).fill(0.7)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  const work = () => {
    for (let i = 0; i < out.length; i++) out[i] = Math.fround(a[i]! * b[i]!)
  }
  for (let i = 0; i < 5; i++) work()
  return best(work)
}
