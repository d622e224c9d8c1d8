import { readFileSync } from 'node:fs'
import { channelOutput } from '#core/document/address'
import { parseDocument } from '#core/document/document'
import type { Pass } from '#core/engine/pass'
import { createField } from '#core/field/field'
import { bakePart, sharedMesh, standardOptions, traced } from '#core/mesh/bake-part'
import { ball, kind } from '#core/mesh/testing/bake-here'
import { bitsOf } from '#core/testing/examples'
import { materialHere } from '#core/testing/material-here'
import { openPool } from './node/pool'
import type { ThreadMessage, ThreadOutcome } from './shared-executor'
import { SharedExecutor } from './shared-executor'

/** Real threads; `fails` says which messages, counted from 1, never reach theirs. */
const pool = openPool('rows-worker', 2)
let sent = 0
let fails: (message: number) => boolean = () => false
const executor = new SharedExecutor(2, async (message: ThreadMessage) => {
  if (fails(++sent)) throw new Error('The thread is gone.')
  return (await pool.run(message)) as ThreadOutcome
})
afterAll(() => pool.destroy())
beforeEach(() => {
  sent = 0
  fails = () => false
})

const setts = parseDocument(JSON.parse(readFileSync('demo/quay-setts.json', 'utf8')))
const outputs = ['height', 'normal'].map(channelOutput)
const evaluate = (width: number, here = false) =>
  materialHere(setts, here ? {} : { executor }).evaluate({ outputs, width })
async function expectWhole(): Promise<void> {
  const { fields } = await evaluate(64)
  const alone = await evaluate(64, true)
  for (const [name, field] of fields) expect(bitsOf(field)).toEqual(bitsOf(alone.fields.get(name)!))
}

it('gives up what a lost thread was to do, and does the next pass whole', async () => {
  for (const lost of [1, 2]) {
    sent = 0
    fails = (message) => message === lost
    await expect(evaluate(96)).rejects.toThrow('The thread is gone.')
    fails = () => false
    await expectWhole()
  }
})

it('tells a fault of a step on a thread as it is, and goes on after it', async () => {
  const field = createField('grey', 64, 64, undefined, executor.allocate)
  const step = { type: 'no-such-node', params: {}, inputs: {}, outputs: { result: 0 } }
  const pass: Pass = {
    setting: {
      width: 64,
      height: 64,
      tileTexels: 64,
      documentSeed: 0,
      metres: [1, 1],
      heightMetres: 0.1,
      part: null,
      images: new Map(),
    },
    fields: [field],
    units: [{ kind: 'steps', steps: [step], from: 0, to: 64, tileRows: 8, localPlanes: 0 }],
  }
  await expect(executor.run(pass, { isCancelled: () => false })).rejects.toThrow("reading 'evaluate'")
  executor.free(field.planes[0]!)
  await expectWhole()
})

/** Megabytes resident in this process, threads and shared memory included, as the kernel counts them. */
const resident = (): number => Number(/VmRSS:\s+(\d+)/.exec(readFileSync('/proc/self/status', 'utf8'))![1]) / 1024

it('takes memory once: evaluations after the first ones hold no more', async () => {
  for (let i = 0; i < 3; i++) await evaluate(512)
  const before = resident()
  for (let i = 0; i < 8; i++) await evaluate(512)
  // One evaluation's fields are 20 MB at most at a time; eight that stayed would be 160.
  expect(resident() - before).toBeLessThan(60)
})

it('threads that two executors share keep their room in the memory of each', async () => {
  const bytes: number[][] = [[], []]
  const both = [0, 1].map(
    (k) =>
      new SharedExecutor(2, async (message: ThreadMessage) => {
        const outcome = (await pool.run(message)) as ThreadOutcome
        bytes[k]!.push(message.memory.buffer.byteLength)
        return outcome
      }),
  )
  // Fields may go round in the heap; only what threads take of it for themselves stays.
  for (let i = 0; i < 12; i++)
    for (const executor of both) await materialHere(setts, { executor }).evaluate({ outputs, width: 64 })
  for (const [k, sizes] of bytes.entries()) {
    const early = sizes[Math.floor(sizes.length / 2)]!
    expect({ k, grown: sizes.at(-1)! - early }).toEqual({ k, grown: 0 })
  }
})

it('mesh data has the same bits on threads as here, also about and beyond the borders of islands', async () => {
  const round = ball(1, 12, 24)
  const kinds = ['normal', 'occlusion', 'island-id'].map(kind)
  const baked = (threads?: SharedExecutor) => {
    const mesh = threads ? sharedMesh(round, threads.allocate) : round
    const scene = traced(mesh, threads?.allocate)
    return bakePart({
      ...{ mesh, part: mesh.parts[0]!, uvSet: 0, bakers: kinds, scene, high: scene, padding: 5, samples: 1, threads },
      target: { width: 72, height: 40, left: 0, top: 0 },
      options: { ...standardOptions(mesh), rays: 8 },
    })
  }
  const [there, here] = [await baked(executor), await baked()]
  expect(here.covered.includes(0)).toBe(true)
  for (const [name, field] of there.fields) expect(bitsOf(field)).toEqual(bitsOf(here.fields.get(name)!))
  expect([...there.missedAt]).toEqual([...here.missedAt])
})
