import type { DrawOutcome, DrawRequest, Drawn, SwatchPicture } from '#runtime/browser/coordinator'
import type { PackOutcome, PackRequest, PackedSheet } from '#runtime/browser/packing-preview'
import type { Wanted } from './engine-client'
import { ROUGH, openEvaluation } from './engine-client'

const swatch = (key: string): SwatchPicture => ({
  key,
  share: 0,
  width: 1,
  height: 1,
  pixels: new Uint8ClampedArray(4),
})
const drawn = (parts: Partial<Drawn> = {}): DrawOutcome => ({
  drawn: {
    width: 1,
    height: 1,
    textures: {},
    swatches: {},
    bands: {},
    spread: null,
    faults: {},
    evaluated: 0,
    reused: 0,
    milliseconds: 0,
    ...parts,
  },
})

/** A worker that answers when told to, and what it was asked. */
function slowWorker() {
  const asked: { request: DrawRequest; answer: (outcome: DrawOutcome) => Promise<void> }[] = []
  return {
    asked,
    documents: () => asked.map(({ request }) => `${String(request.document)}@${request.width}`),
    draw: (_: string, request: DrawRequest) =>
      new Promise<DrawOutcome>((resolve) =>
        asked.push({
          request,
          answer: async (outcome) => {
            resolve(outcome)
            for (let i = 0; i < 5; i++) await Promise.resolve()
          },
        }),
      ),
    probe: async () => [],
    example: async () => null,
    pack: async () => ({ error: 'not here', cancelled: false }),
  }
}
const wanted = (document: string, swatches: string[] = []): Wanted => ({
  document,
  width: 512,
  shown: null,
  swatches,
  bands: [],
  spread: null,
})
const cancelled: DrawOutcome = { error: 'cancelled', cancelled: true }

/** Answers whatever is asked until nothing more is. */
async function answerAll(worker: ReturnType<typeof slowWorker>, from: number): Promise<void> {
  for (let i = from; i < worker.asked.length; i++) await worker.asked[i]!.answer(drawn())
}

describe('drawing', () => {
  it('is rough first, then what takes long, then sharp', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a'))
    expect(worker.documents()).toEqual([`a@${ROUGH}`])
    expect(worker.asked[0]!.request.later).toEqual(['occlusion'])
    await worker.asked[0]!.answer(drawn())
    expect(store.getState().state).toBe('rough')
    await answerAll(worker, 1)
    expect(worker.documents()).toEqual([`a@${ROUGH}`, `a@${ROUGH}`, 'a@512'])
    expect(worker.asked[1]!.request.later).toBeUndefined()
    expect(store.getState().state).toBe('sharp')
  })

  it('leaves nothing for later that is alone on the stage', () => {
    const worker = slowWorker()
    openEvaluation(worker).want({ ...wanted('a'), shown: 'occlusion' })
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
    await worker.asked[0]!.answer(drawn())
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
    await worker.asked[1]!.answer(drawn())
    expect(store.getState()).toMatchObject({ state: 'rough', problem: null })
  })
})

describe('swatches', () => {
  it('change only where the worker sent a new one, and count it', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a', ['x', 'y']))
    await worker.asked[0]!.answer(drawn({ swatches: { x: swatch('1'), y: swatch('2') } }))
    await answerAll(worker, 1)
    const { x, y } = store.getState().swatches
    want(wanted('b', ['x', 'y']))
    await worker.asked[3]!.answer(drawn({ swatches: { y: swatch('3') } }))
    expect(store.getState().swatches.x).toBe(x)
    expect([store.getState().swatches.y!.drawn, y!.drawn]).toEqual([2, 1])
  })

  it('go with what is no longer wanted or failed', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a', ['x', 'y']))
    await worker.asked[0]!.answer(drawn({ swatches: { x: swatch('1'), y: swatch('2') } }))
    await answerAll(worker, 1)
    want(wanted('b', ['x']))
    await answerAll(worker, 3)
    expect(Object.keys(store.getState().swatches)).toEqual(['x'])
    want(wanted('c', ['x']))
    await worker.asked[6]!.answer(drawn({ faults: { x: { message: 'circle' } } }))
    expect(store.getState().swatches).toEqual({})
  })

  it('of the other half of a split go to its own textures', async () => {
    const worker = slowWorker()
    const { store, compare } = openEvaluation(worker)
    const done = compare(wanted('old'))
    const picture = { ...swatch('k'), key: 'k' }
    await worker.asked[0]!.answer(drawn({ textures: { colour: picture } }))
    expect(await done).toBeNull()
    expect(store.getState().textures).toEqual({ main: {}, other: { colour: picture }, packed: {} })
  })
})

describe('packing', () => {
  const request = (want: PackRequest['want']): PackRequest => ({
    document: 'a',
    width: 8,
    from: { packing: {}, sharpen: 0, dither: false },
    want,
  })
  const sheet = request({ kind: 'sheet', report: null })
  const packed = (parts: Partial<PackedSheet> = {}): PackOutcome => ({
    packed: { kind: 'sheet', files: {}, report: null, spreads: null, ...parts },
  })
  const pictures = { whole: { width: 1, height: 1, pixels: new Uint8ClampedArray(4) }, slots: [] }

  it('takes the newest answer only, and keeps the report it was not asked for again', async () => {
    const answers: ((outcome: PackOutcome) => void)[] = []
    const worker = { ...slowWorker(), pack: () => new Promise<PackOutcome>((resolve) => void answers.push(resolve)) }
    const { store, pack } = openEvaluation(worker)
    const [first, second] = [pack(sheet), pack({ ...sheet })]
    expect(store.getState().sheet.state).toBe('working')
    answers[1]!(packed({ report: [], files: { b: pictures } }))
    await second
    answers[0]!(packed({ files: { a: pictures } }))
    await first
    expect(store.getState().sheet).toMatchObject({ state: 'done', files: { b: pictures }, report: [] })
    const third = pack({ ...sheet })
    answers[2]!(packed({ files: { c: pictures } }))
    await third
    expect(store.getState().sheet).toMatchObject({ files: { c: pictures }, report: [], problem: null })
    const fourth = pack({ ...sheet })
    answers[3]!({ error: 'No channel "wear".', cancelled: false })
    await fourth
    expect(store.getState().sheet).toMatchObject({
      state: 'failed',
      problem: 'No channel "wear".',
      files: { c: pictures },
    })
  })

  it('what is looked at goes to textures of its own and leaves the sheet alone', async () => {
    const shown = { key: 'k', width: 1, height: 1, pixels: new Uint8ClampedArray(4) }
    const pack = async (): Promise<PackOutcome> => ({
      packed: { kind: 'look', width: 1, height: 1, textures: { shown } },
    })
    const evaluation = openEvaluation({ ...slowWorker(), pack })
    const before = evaluation.store.getState()
    await evaluation.pack(request({ kind: 'look', mip: 0, shown: 'file:a' }))
    const after = evaluation.store.getState()
    expect(after.textures).toEqual({ ...before.textures, packed: { shown } })
    expect([after.sheet, after.look.state]).toEqual([before.sheet, 'done'])
  })
})
