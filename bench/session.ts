/** What edits cost before anything is evaluated: expanding a document into a graph and planning it. `npm run bench:session` */
import { writeFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { produce } from 'immer'
import { Composition } from '#core/compose/composition'
import { channelOutput, formatOutput } from '#core/document/address'
import { CHANNELS } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { makePlan } from '#core/engine/plan'
import { canonicalJson, hashText } from '#core/hash'
import { registry } from '#core/nodes/registry.generated'
import { limitDocument } from '#core/testing/limit-document'

const SIZES = [
  [1000, 256],
  [60, 20],
] as const
const RUNS = 61
const outputs = CHANNELS.map(({ id }) => channelOutput(id))

const cpuMs = (): number => {
  const { user, system } = process.cpuUsage()
  return (user + system) / 1000
}
const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!
function timed<T>(work: () => T): { ms: number; result: T } {
  const before = cpuMs()
  const result = work()
  return { ms: cpuMs() - before, result }
}

/** The reference of the same run: 1000 hashes of a step's text, which the graph's keys once took each. */
const reference = (): number =>
  timed(() => {
    for (let i = 0; i < 1000; i++) hashText(canonicalJson(['blend', 1, { amount: i / 1000 }, 'x'.repeat(140)]))
  }).ms

function plan(composition: Composition): number {
  const refs = new Map(outputs.map((output) => [formatOutput(output), composition.ref(output)]))
  const graph = { ...composition.graph, outputs: refs }
  return makePlan({ graph, outputs: [...refs.keys()], width: 256, height: 256 }).steps.length
}

/** The first eight nodes feed all others; the last feeds little. */
const turned = (document: MaterialDocument, node: string, value: number): MaterialDocument =>
  produce(document, (draft) => {
    const { params } = draft.nodes[node]!
    draft.nodes[node]!.params = 'amount' in params! ? { ...params, amount: value } : { ...params, gain: value }
  })

const rows: string[][] = []
for (const [nodes, layers] of SIZES) {
  const document = limitDocument(nodes, layers)
  const first: number[] = []
  const deep: number[] = []
  const shallow: number[] = []
  const hashes: number[] = []
  let steps = 0
  for (let i = 0; i < RUNS; i++) {
    hashes.push(reference())
    let composition!: Composition
    first.push(
      timed(() => {
        composition = new Composition(document, registry)
        steps = plan(composition)
      }).ms,
    )
    const last = `n${nodes - 8 - ((nodes - 8) % 4)}`
    for (const [node, list] of [
      ['n0', deep],
      [last, shallow],
    ] as const) {
      const next = turned(composition.document, node, 0.3 + i / 100)
      list.push(
        timed(() => {
          if (!composition.follow(next)) throw new Error('the graph did not stay')
          plan(composition)
        }).ms,
      )
    }
  }
  const per = median(hashes)
  for (const [what, list] of [
    ['first expansion and plan', first],
    ['after a number that all else rests on', deep],
    ['after a number near the end', shallow],
  ] as const)
    rows.push([
      `${nodes} nodes, ${layers} layers, ${steps} steps`,
      what,
      median(list).toFixed(2),
      Math.max(...list.slice(3)).toFixed(2),
      (median(list) / per).toFixed(2),
    ])
}

const text = [
  '# Sessions: from an edit to a plan',
  '',
  `Written by \`npm run bench:session\` on ${cpus().length} cores of ${cpus()[0]!.model.trim()}, Node ${process.versions.node}.`,
  `CPU milliseconds, median of ${RUNS} interleaved runs; the last column is against 1000 SHA-256 of step texts in the same run.`,
  '',
  '| document | what | median, ms | most, ms | of 1000 hashes |',
  '| --- | --- | --- | --- | --- |',
  ...rows.map((row) => `| ${row.join(' | ')} |`),
  '',
].join('\n')
console.log(text)
if (process.argv.includes('--write')) writeFileSync('bench/SESSION.md', text)
