import { metresOf } from '../document/domain'
import { readFileSync } from 'node:fs'
import { openThreads } from '#runtime/node/threads'
import { GristError } from '../errors'
import type { Field } from '../field/field'
import type { MaterialDocument } from '../document/document'
import { parseOutput } from '../document/address'
import { parseDocument } from '../document/document'
import type { Step } from '../graph/graph'
import { expandDocument } from '../compose/expand'
import { registry } from '../nodes/registry.generated'
import { bitsOf, documentOf } from '../testing/examples'
import type { EngineHost, EvaluateRequest } from './evaluate'
import { evaluateBands, evaluateFields } from './evaluate'
import { COSTS } from './costs'
import { FieldCache } from './field-cache'
import { localExecutor } from './local-executor'
import { makePlan } from './plan'
import { Pyramids } from './pyramids'
import type { Executor } from './pass'

const setts = parseDocument(JSON.parse(readFileSync('demo/quay-setts.json', 'utf8')))
const CHANNELS = ['colour', 'height', 'roughness', 'normal', 'occlusion']

const requestFor = (document: MaterialDocument, outputs: string[], width: number): EvaluateRequest => ({
  graph: expandDocument(document, registry, outputs.map(parseOutput)),
  outputs,
  width,
})
const images = {
  load: async () => {
    throw new GristError('asset-missing', 'There is no such image.')
  },
}
const host = ({
  executor = localExecutor(registry),
  cache,
}: { executor?: Executor; cache?: FieldCache } = {}): EngineHost => ({
  executor,
  cache,
  pyramids: new Pyramids(images, executor.allocate),
})
const bits = (fields: ReadonlyMap<string, Field>) => [...fields].map(([name, field]) => [name, bitsOf(field)])
const code = async (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'done',
    (error: unknown) => (error as GristError).code,
  )

describe('memory', () => {
  let whole: Awaited<ReturnType<typeof evaluateFields>>
  beforeAll(async () => (whole = await evaluateFields(host(), requestFor(setts, CHANNELS, 128))))

  test('cut into bands by a budget, the demo gives the same bits', async () => {
    expect(whole.report.bands).toBe(1)
    const budgetBytes = Math.floor(whole.report.forecastBytes * 0.5)
    const parts = await evaluateFields(host(), { ...requestFor(setts, CHANNELS, 128), budgetBytes })
    expect(parts.report.bands).toBeGreaterThan(1)
    expect(parts.report.peakBytes).toBeLessThanOrEqual(budgetBytes)
    expect(bits(parts.fields)).toEqual(bits(whole.fields))
  })

  /** An executor that counts from outside what it gave and was not given back, and rows by node type. */
  function counting() {
    const count = { bytes: 0, max: 0, rows: new Map<string, number>() }
    const plain = localExecutor(registry)
    const executor: Executor = {
      ...plain,
      allocate: (bytes) => {
        count.bytes += bytes
        count.max = Math.max(count.max, count.bytes)
        return new Uint8Array(bytes)
      },
      free: ({ byteLength }) => (count.bytes -= byteLength),
      run: async (pass, signals) => {
        for (const unit of pass.units)
          if (unit.kind === 'steps')
            for (const { type } of unit.steps) count.rows.set(type, (count.rows.get(type) ?? 0) + unit.to - unit.from)
        return plain.run(pass, signals)
      },
    }
    return { executor, count }
  }

  test.each([1, 0.5])('with a budget of %s of the forecast, no more is ever allocated', async (part) => {
    const budgetBytes = Math.floor(whole.report.forecastBytes * part)
    const { executor, count } = counting()
    const again = await evaluateFields(host({ executor }), { ...requestFor(setts, CHANNELS, 128), budgetBytes })
    expect(count.max).toBeLessThanOrEqual(budgetBytes)
    expect(again.report.peakBytes).toBe(count.max)
    // All of it was given back.
    expect(count.bytes).toBe(0)
  })

  test('in bands, a row is made once but for those beyond the border, and whole fields once', async () => {
    const once = counting()
    await evaluateFields(host({ executor: once.executor }), requestFor(setts, CHANNELS, 128))
    const bands = counting()
    const parts = await evaluateFields(host({ executor: bands.executor }), {
      ...requestFor(setts, CHANNELS, 128),
      budgetBytes: Math.floor(whole.report.forecastBytes * 0.45),
    })
    expect(parts.report.bands).toBeGreaterThanOrEqual(4)
    for (const type of ['distance', 'bevel', 'regions', 'constant'])
      expect([type, bands.count.rows.get(type)]).toEqual([type, once.count.rows.get(type)])
    const sum = (rows: ReadonlyMap<string, number>): number => [...rows.values()].reduce((a, b) => a + b)
    // Occlusion of 6 texels and blurs read beyond the border: those rows are owed at both ends.
    expect(sum(bands.count.rows)).toBeLessThan(1.3 * sum(once.count.rows))
  })

  test('what was forecast is what is held, within a tenth', async () => {
    for (const outputs of [CHANNELS, ['height'], ['normal']]) {
      const { report } = await evaluateFields(host(), requestFor(setts, outputs, 128))
      expect(report.peakBytes).toBeLessThanOrEqual(report.forecastBytes)
      expect(report.peakBytes).toBeGreaterThan(0.9 * report.forecastBytes)
    }
  })

  test('a chain of forty steps holds two fields at a time', async () => {
    const nodes: Record<string, unknown> = { n0: { type: 'noise' } }
    for (let i = 1; i <= 40; i++)
      nodes[`n${i}`] = {
        type: 'levels',
        params: { gamma: 1 + i / 100 },
        inputs: { source: i === 1 ? 'n0.grey' : `n${i - 1}.result` },
      }
    const { report } = await evaluateFields(host(), requestFor(documentOf({ nodes }), ['n40.result'], 64))
    expect(report.evaluated).toHaveLength(41)
    expect(report.peakBytes).toBe(2 * 64 * 64 * 4)
  })

  test('a budget that no band can keep to is refused with the figures', async () => {
    const work = evaluateFields(host(), { ...requestFor(setts, CHANNELS, 256), budgetBytes: 1000 })
    await expect(work).rejects.toThrow(/needs \d+ MB at the least/)
    expect(await code(work)).toBe('memory-budget')
  })

  test('the cache keeps to its bytes and drops what was used least recently', () => {
    const field = (): Field => ({
      type: 'grey',
      width: 10,
      height: 10,
      top: 0,
      rows: 10,
      stride: 10,
      planes: [new Float32Array(100)],
      ids: null,
    })
    const dropped: Field[] = []
    const cache = new FieldCache(1200, (one) => dropped.push(one))
    for (const name of ['a', 'b', 'c']) cache.put(name, field())
    cache.get('a')
    cache.put('d', field())
    expect(['a', 'b', 'c', 'd'].map((name) => cache.has(name))).toEqual([true, false, true, true])
    expect(cache.bytes).toBe(1200)
    cache.put('huge', { ...field(), planes: [new Float32Array(1000)] })
    expect(cache.has('huge')).toBe(false)
    expect(dropped).toHaveLength(1)
  })
})

describe('evaluating again', () => {
  const WIDTH = 32
  const cache = new FieldCache(1 << 28)
  let first: Awaited<ReturnType<typeof evaluateFields>>
  beforeAll(async () => (first = await evaluateFields(host({ cache }), requestFor(setts, CHANNELS, WIDTH))))

  /** Steps that outputs need, by content key. */
  function needed(document: MaterialDocument, outputs: string[]): Map<string, Step> {
    const { graph } = requestFor(document, outputs, WIDTH)
    const { height } = { height: (WIDTH * metresOf(document)[1]) / metresOf(document)[0] }
    const { steps } = makePlan({ graph, outputs, width: WIDTH, height })
    return new Map(steps.map(({ key, step }) => [key, step]))
  }

  test('nothing changed: nothing is evaluated', async () => {
    const { report } = await evaluateFields(host({ cache }), requestFor(setts, CHANNELS, WIDTH))
    expect(report.evaluated).toEqual([])
  })

  test.each(setts.dials.map((dial) => [dial.id, dial] as const))(
    'dial %s evaluates the steps after it, and else only what is cheaper made again than kept',
    async (id, dial) => {
      const turned = parseDocument({
        ...setts,
        dials: setts.dials.map((one) => (one.id === id ? { ...one, value: nudged(dial) } : one)),
      })
      const { fields, report } = await evaluateFields(host({ cache }), requestFor(turned, CHANNELS, WIDTH))
      const [before, after] = [needed(setts, CHANNELS), needed(turned, CHANNELS)]
      const changed = [...after].filter(([key]) => !before.has(key)).map(([, step]) => step.node.type)
      const again = [...report.evaluated]
      for (const type of changed) again.splice(again.indexOf(type), 1)
      expect(report.evaluated).toHaveLength(again.length + changed.length)
      expect(again.filter((type) => type !== 'constant' && COSTS[type]! > 12)).toEqual([])
      expect(changed.length).toBeGreaterThan(0)
      expect(changed.length).toBeLessThan(after.size)
      const fresh = await evaluateFields(host(), requestFor(turned, CHANNELS, WIDTH))
      expect(bits(fields)).toEqual(bits(fresh.fields))
      expect(bits(fields)).not.toEqual(bits(first.fields))
    },
  )
})

function nudged(dial: MaterialDocument['dials'][number]): unknown {
  if (typeof dial.value === 'number') {
    const span = (dial.max ?? 1) - (dial.min ?? 0)
    const step = dial.kind === 'number' ? span / 7 : Math.ceil(span / 7)
    return dial.value + step <= (dial.max ?? Infinity) ? dial.value + step : dial.value - step
  }
  if (dial.kind === 'colour') return '#336699'
  if (dial.kind === 'switch') return !dial.value
  return dial.options!.find((option) => option !== dial.value)
}

describe('progress and cancelling', () => {
  test('progress rises to 1', async () => {
    const ratios: number[] = []
    await evaluateFields(host(), { ...requestFor(setts, CHANNELS, 64), onProgress: (ratio) => ratios.push(ratio) })
    expect(ratios.length).toBeGreaterThan(10)
    expect(ratios.at(-1)).toBe(1)
    expect([...ratios].sort((a, b) => a - b)).toEqual(ratios)
  })

  test('cancelled between rows, on this thread and on others; the next evaluation is whole', async () => {
    let calls = 0
    expect(
      await code(evaluateFields(host(), { ...requestFor(setts, CHANNELS, 128), isCancelled: () => ++calls > 500 })),
    ).toBe('cancelled')
    expect(calls).toBe(501)
    const executor = openThreads(2)
    try {
      const started = Date.now()
      const work = evaluateFields(host({ executor }), {
        ...requestFor(setts, CHANNELS, 2048),
        isCancelled: () => Date.now() - started > 400,
      })
      expect(await code(work)).toBe('cancelled')
      const again = await evaluateFields(host({ executor }), requestFor(setts, CHANNELS, 64))
      expect(bits(again.fields)).toEqual(bits((await evaluateFields(host(), requestFor(setts, CHANNELS, 64))).fields))
    } finally {
      await executor.close()
    }
  })

  test('a sink that fails ends the evaluation with its error', async () => {
    const work = evaluateBands(host(), requestFor(setts, ['height'], 64), () => {
      throw new GristError('file-invalid', 'The disk is full.')
    })
    await expect(work).rejects.toThrow('The disk is full.')
  })
})

describe('bad requests', () => {
  test.each([0, -1, 1.5, NaN, 16385])('a width of %s is refused', async (width) => {
    expect(await code(evaluateFields(host(), requestFor(setts, ['height'], width)))).toBe('size-invalid')
  })
  test('a height that is no whole number is refused', async () => {
    const tall = documentOf({ domain: { kind: 'tile', metres: [1, 0.3] } })
    await expect(evaluateFields(host(), requestFor(tall, ['height'], 64))).rejects.toThrow('19.2 rows')
  })
  test('a missing image names its node', async () => {
    const parts = documentOf({ nodes: { photo: { type: 'image', params: { image: 'wall.png' } } } })
    const work = evaluateFields(host(), requestFor(parts, ['photo.colour'], 16))
    await expect(work).rejects.toThrow('node "photo": There is no such image.')
    expect(await code(work)).toBe('asset-missing')
  })
})

test('a band of a tile that is not square, across the border', async () => {
  const wide = parseDocument({ ...setts, domain: { kind: 'tile', metres: [2, 1] } })
  const whole = await evaluateFields(host(), requestFor(wide, ['normal'], 128))
  const part = await evaluateFields(host(), { ...requestFor(wide, ['normal'], 128), band: { top: 60, rows: 8 } })
  const rows = [60, 61, 62, 63, 0, 1, 2, 3]
  part.fields
    .get('normal')!
    .planes.forEach((plane, p) =>
      rows.forEach((row, y) =>
        expect(plane.slice(y * 128, (y + 1) * 128)).toEqual(
          whole.fields.get('normal')!.planes[p]!.slice(row * 128, (row + 1) * 128),
        ),
      ),
    )
})
