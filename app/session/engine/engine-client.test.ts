import { emptyDocument } from '../testing/empty-document'
import type { MaterialDocument } from '#core/document/document'
import { parseOutput } from '#core/document/address'
import type {
  DocumentUpdate,
  PackOutcome,
  PackingPreview,
  Preview,
  PreviewOutcome,
  PreviewRequest,
  SwatchPicture,
} from '#runtime/browser/protocol'
import type { EngineClient, Wanted, WantedPacking } from './engine-client'
import { ROUGH, openEvaluation } from './engine-client'

const swatch = (key: string): SwatchPicture => ({
  key,
  mean: 0,
  width: 1,
  height: 1,
  pixels: new Uint8ClampedArray(4),
})
const fault = (missing: boolean) => ({ code: 'cycle', message: 'circle', missing }) as const
const preview = (parts: Partial<Preview> = {}): PreviewOutcome => ({
  preview: {
    width: 1,
    height: 1,
    textures: {},
    swatches: {},
    layerColours: {},
    histograms: {},
    faults: {},
    evaluated: 0,
    reused: 0,
    milliseconds: 0,
    ...parts,
  },
})

/** The name of the document that an update leads to. */
const nameIn = (update: DocumentUpdate, before: string): string =>
  'document' in update ? update.document.name : String(update.patches.at(-1)?.value ?? before)

/** A worker that answers when told to, and what it was asked. */
function slowWorker() {
  const asked: { request: PreviewRequest; answer: (outcome: PreviewOutcome) => Promise<void> }[] = []
  return {
    asked,
    documents: () => {
      let name = ''
      return asked.map(({ request }) => `${(name = nameIn(request.update, name))}@${request.width}`)
    },
    evaluatePreview: (_: string, request: PreviewRequest) =>
      new Promise<PreviewOutcome>((resolve) =>
        asked.push({
          request,
          answer: async (outcome) => {
            resolve(outcome)
            for (let i = 0; i < 8; i++) await Promise.resolve()
          },
        }),
      ),
    listen: (_: Parameters<EngineClient['listen']>[0]): void => {},
    forecastLarge: async () => null,
    probe: async () => [],
    beginWeighing: async () => {},
    weigh: async () => ({ milliseconds: 0, change: {} }),
    endWeighing: async () => {},
    conspicuous: async () => null,
    windowOf: async () => ({ error: 'not here', cancelled: true }),
    endWindow: async () => {},
    exportForEditor: async () => ({ error: 'not here', cancelled: true }),
    importFromEditor: async () => ({ error: 'not here', cancelled: true }),
    endExchange: async () => {},
    texturesOf: async () => ({ textures: {} }),
    endTextures: async () => {},
    placeAt: async () => ({ layers: [], shown: null }),
    example: async () => null,
    picture: async () => null,
    pack: async () => ({ error: 'not here', cancelled: false }),
  }
}
const start = emptyDocument()
const named = (name: string): MaterialDocument => ({ ...start, name })
const wanted = (name: string, swatches: string[] = []): Wanted => ({
  document: named(name),
  width: 512,
  shown: null,
  swatches: swatches.map(parseOutput),
  layerColours: [],
  histograms: [],
})
const cancelled: PreviewOutcome = { error: 'cancelled', cancelled: true }

/** Answers whatever is asked until nothing more is. */
async function answerAll(worker: ReturnType<typeof slowWorker>, from: number): Promise<void> {
  for (let i = from; i < worker.asked.length; i++) await worker.asked[i]!.answer(preview())
}

describe('drawing', () => {
  it('is rough first, then what takes long, then sharp', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a'))
    expect(worker.documents()).toEqual([`a@${ROUGH}`])
    expect(worker.asked[0]!.request.later).toEqual(['occlusion'])
    await worker.asked[0]!.answer(preview())
    expect(store.getState().state).toBe('rough')
    await answerAll(worker, 1)
    expect(worker.documents()).toEqual([`a@${ROUGH}`, `a@${ROUGH}`, 'a@512'])
    expect(worker.asked[1]!.request.later).toBeUndefined()
    expect(store.getState().state).toBe('sharp')
  })

  it('keeps what is at fault with what comes later until that has come', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    const fault = { code: 'mesh-data-missing', message: 'none', missing: true } as const
    const faults = () => Object.keys(store.getState().faults)
    want(wanted('a', ['colour', 'occlusion']))
    await worker.asked[0]!.answer(preview())
    const broken = preview()
    await worker.asked[1]!.answer(
      'preview' in broken ? { preview: { ...broken.preview, faults: { occlusion: fault } } } : broken,
    )
    await answerAll(worker, 2)
    want(wanted('b', ['colour', 'occlusion']))
    const from = worker.asked.length - 1
    await worker.asked[from]!.answer(preview())
    expect([store.getState().state, faults()]).toEqual(['rough', ['occlusion']])
    await answerAll(worker, from + 1)
    expect([store.getState().state, faults()]).toEqual(['sharp', []])
  })

  it('leaves nothing for later that is alone on the stage', () => {
    const worker = slowWorker()
    openEvaluation(worker).want({ ...wanted('a'), shown: parseOutput('occlusion') })
    expect(worker.asked[0]!.request.later).toEqual([])
  })

  it('lets a rough pass finish during a drag, skips what lies between, and ends with the newest', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    for (const name of ['a', 'b', 'c', 'd']) want(wanted(name))
    await answerAll(worker, 0)
    expect(worker.documents()).toEqual([`a@${ROUGH}`, `d@${ROUGH}`, `d@${ROUGH}`, 'd@512'])
    expect(store.getState().state).toBe('sharp')
  })

  it('gives a later pass up for anything newer', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a'))
    await worker.asked[0]!.answer(preview())
    want(wanted('b'))
    expect(worker.documents()).toEqual([`a@${ROUGH}`, `a@${ROUGH}`, `b@${ROUGH}`])
    await worker.asked[1]!.answer(cancelled)
    expect(store.getState().problem).toBeNull()
    await answerAll(worker, 2)
    expect(worker.documents().slice(3)).toEqual([`b@${ROUGH}`, 'b@512'])
    expect(store.getState().state).toBe('sharp')
  })

  it('says what went wrong, and goes on with the next edit', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a'))
    await worker.asked[0]!.answer({ error: 'no room', cancelled: false })
    expect(store.getState()).toMatchObject({ state: 'failed', problem: 'no room' })
    want(wanted('b'))
    await worker.asked[1]!.answer(preview())
    expect(store.getState()).toMatchObject({ state: 'rough', problem: null })
  })
})

describe('a large preview', () => {
  const large = (name: string): Wanted => ({ ...wanted(name), width: 4096 })

  it('comes after one at 1024, and is given up for anything newer', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(large('a'))
    await answerAll(worker, 0)
    expect(worker.documents()).toEqual([`a@${ROUGH}`, `a@${ROUGH}`, 'a@1024', 'a@4096'])
    expect(store.getState().state).toBe('sharp')
    want(large('b'))
    for (let i = 4; i < 7; i++) await worker.asked[i]!.answer(preview())
    expect(worker.documents().at(-1)).toBe('b@4096')
    want(large('c'))
    await worker.asked[7]!.answer(cancelled)
    await answerAll(worker, 8)
    expect(worker.documents().slice(8)).toEqual([`c@${ROUGH}`, `c@${ROUGH}`, 'c@1024', 'c@4096'])
  })

  it('tells how far it is until something newer is wanted', async () => {
    let told: Parameters<EngineClient['listen']>[0] = () => {}
    const worker = { ...slowWorker(), listen: (listener: typeof told) => void (told = listener) }
    const { store, want } = openEvaluation(worker)
    want(large('a'))
    for (let i = 0; i < 3; i++) await worker.asked[i]!.answer(preview())
    told('shown', 0.4)
    expect(store.getState()).toMatchObject({ state: 'rough', progress: 0.4 })
    want(large('b'))
    expect(store.getState().progress).toBeNull()
    await answerAll(worker, 3)
    told('shown', 0.9)
    expect(store.getState()).toMatchObject({ state: 'sharp', progress: null })
  })

  it('is of the stage alone: the other half of a split, and packing, go up to 2048', async () => {
    const widths: number[] = []
    const worker = {
      ...slowWorker(),
      pack: async ({ width }: { width: number }): Promise<PackOutcome> => {
        widths.push(width)
        return { error: 'not here', cancelled: true }
      },
    }
    const { compare, pack } = openEvaluation(worker)
    void compare('comparison', large('old'))
    const from = { packing: {}, sharpen: 0, dither: false }
    await pack({ document: named('a'), width: 4096, from, want: { kind: 'packing', report: null } })
    expect([worker.asked[0]!.request.width, ...widths]).toEqual([2048, 2048])
  })
})

describe('swatches', () => {
  it('change only where the worker sent a new one, and count it', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a', ['x', 'y']))
    await worker.asked[0]!.answer(preview({ swatches: { x: swatch('1'), y: swatch('2') } }))
    await answerAll(worker, 1)
    const { x, y } = store.getState().swatches
    want(wanted('b', ['x', 'y']))
    await worker.asked[3]!.answer(preview({ swatches: { y: swatch('3') } }))
    expect(store.getState().swatches.x).toBe(x)
    expect([store.getState().swatches.y!.changes, y!.changes]).toEqual([2, 1])
  })

  it('stay a while when out of sight, go when they fail', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a', ['x', 'y']))
    await worker.asked[0]!.answer(preview({ swatches: { x: swatch('1'), y: swatch('2') } }))
    await answerAll(worker, 1)
    want(wanted('b', ['x']))
    await answerAll(worker, 3)
    expect(Object.keys(store.getState().swatches)).toEqual(['x', 'y'])
    want(wanted('c', ['x', 'y']))
    await worker.asked[6]!.answer(preview({ faults: { x: fault(true) } }))
    expect(Object.keys(store.getState().swatches)).toEqual(['y'])
  })

  it('of what scrolls into view come by one small pass, and the stage stays sharp', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want({ ...wanted('a', ['x']), layerColours: ['one'] })
    await worker.asked[0]!.answer(
      preview({
        swatches: { x: swatch('1') },
        layerColours: { one: '#111111' },
        faults: { height: fault(false) },
      }),
    )
    await answerAll(worker, 1)
    const { textures, last, faults } = store.getState()
    const asked = worker.asked.length
    want({ ...wanted('a', ['y', 'roughness']), layerColours: ['two'] })
    expect(store.getState().state).toBe('sharp')
    const [{ request, answer }] = worker.asked.slice(asked) as [(typeof worker.asked)[0]]
    expect(request).toMatchObject({ width: ROUGH, lit: false, histograms: [] })
    // Channels come as pictures where they are in view, and not otherwise.
    expect([request.later!.includes('roughness'), request.later!.includes('colour')]).toEqual([false, true])
    await answer(preview({ swatches: { y: swatch('2') }, layerColours: { two: '#222222' } }))
    expect(worker.asked).toHaveLength(asked + 1)
    expect(Object.keys(store.getState().swatches).sort()).toEqual(['x', 'y'])
    expect(store.getState().layerColours).toEqual({ one: '#111111', two: '#222222' })
    expect(store.getState()).toMatchObject({ state: 'sharp', textures, last, faults })
  })

  it('of what is out of sight are kept up to a number', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    for (let page = 0; page < 5; page++) {
      const names = Array.from({ length: 100 }, (_, i) => `n${page}_${i}`)
      want(wanted('a', names))
      await worker.asked
        .at(-1)!
        .answer(preview({ swatches: Object.fromEntries(names.map((name) => [name, swatch(name)])) }))
      await answerAll(worker, worker.asked.length)
    }
    const kept = Object.keys(store.getState().swatches)
    expect(kept).toHaveLength(256 + 100)
    expect(kept.filter((name) => name.startsWith('n4_'))).toHaveLength(100)
    expect(kept.filter((name) => name.startsWith('n0_'))).toHaveLength(0)
  })

  it('of the other half of a split go to its own textures', async () => {
    const worker = slowWorker()
    const { store, compare } = openEvaluation(worker)
    const done = compare('comparison', wanted('old'))
    const picture = { ...swatch('k'), key: 'k' }
    await worker.asked[0]!.answer(preview({ textures: { colour: picture } }))
    expect(await done).toBeNull()
    expect(store.getState().textures).toEqual({ shown: {}, comparison: { colour: picture }, versus: {}, delivered: {} })
  })
})

describe('packing', () => {
  const request = (want: WantedPacking['want']): WantedPacking => ({
    document: named('a'),
    width: 8,
    from: { packing: {}, sharpen: 0, dither: false },
    want,
  })
  const wholePacking = request({ kind: 'packing', report: null })
  const packed = (parts: Partial<PackingPreview> = {}): PackOutcome => ({
    packed: { kind: 'packing', files: {}, report: null, histograms: null, ...parts },
  })
  const pictures = { whole: { width: 1, height: 1, pixels: new Uint8ClampedArray(4) }, slots: [], loss: null }

  it('takes the newest answer only, and keeps the report it was not asked for again', async () => {
    const answers: ((outcome: PackOutcome) => void)[] = []
    const worker = { ...slowWorker(), pack: () => new Promise<PackOutcome>((resolve) => void answers.push(resolve)) }
    const { store, pack } = openEvaluation(worker)
    const [first, second] = [pack(wholePacking), pack({ ...wholePacking })]
    expect(store.getState().packing.state).toBe('working')
    answers[1]!(packed({ report: [], files: { b: pictures } }))
    await second
    answers[0]!(packed({ files: { a: pictures } }))
    await first
    expect(store.getState().packing).toMatchObject({ state: 'done', files: { b: pictures }, report: [] })
    const third = pack({ ...wholePacking })
    answers[2]!(packed({ files: { c: pictures } }))
    await third
    expect(store.getState().packing).toMatchObject({ files: { c: pictures }, report: [], problem: null })
    const fourth = pack({ ...wholePacking })
    answers[3]!({ error: 'No channel "wear".', cancelled: false })
    await fourth
    expect(store.getState().packing).toMatchObject({
      state: 'failed',
      problem: 'No channel "wear".',
      files: { c: pictures },
    })
  })

  it('what is looked at goes to textures of its own and leaves the packing alone', async () => {
    const shown = { key: 'k', width: 1, height: 1, pixels: new Uint8ClampedArray(4) }
    const pack = async (): Promise<PackOutcome> => ({
      packed: {
        kind: 'delivered',
        width: 1,
        height: 1,
        textures: { shown },
        look: 'older',
        loss: { rms: 0.01, largest: 0.1 },
        gain: null,
      },
    })
    const evaluation = openEvaluation({ ...slowWorker(), pack })
    const before = evaluation.store.getState()
    await evaluation.pack(request({ kind: 'delivered', mip: 0, shown: { kind: 'file', map: 'a' } }))
    const after = evaluation.store.getState()
    expect(after.textures).toEqual({ ...before.textures, delivered: { shown } })
    expect(after.deliveredLook).toBe('older')
    expect(after.deliveredLoss).toEqual({ loss: { rms: 0.01, largest: 0.1 }, gain: null })
    expect([after.packing, after.delivered.state]).toEqual([before.packing, 'done'])
  })
})

describe('the document', () => {
  it('goes whole once, then as what changed; and whole again where the worker lost it', async () => {
    const worker = slowWorker()
    const { want } = openEvaluation(worker)
    want(wanted('a'))
    await answerAll(worker, 0)
    const from = worker.asked.length
    want(wanted('b'))
    const { update } = worker.asked[from]!.request
    expect(update).toMatchObject({ since: 1, version: 2, patches: [{ op: 'replace', path: ['name'], value: 'b' }] })
    await worker.asked[from]!.answer({ error: 'lost', cancelled: false, stale: true })
    expect(worker.asked[from + 1]!.request.update).toMatchObject({ document: named('b') })
    await worker.asked[from + 1]!.answer(preview())
    expect(worker.asked[from + 2]!.request.update).toMatchObject({ patches: [] })
  })

  it('that is equal asks for nothing, as at the end of a drag', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a', ['x']))
    await answerAll(worker, 0)
    const asked = worker.asked.length
    want(wanted('a', ['x']))
    expect(worker.asked).toHaveLength(asked)
    expect(store.getState().state).toBe('sharp')
    want(wanted('a', ['x', 'y']))
    expect(worker.asked).toHaveLength(asked + 1)
  })
})
