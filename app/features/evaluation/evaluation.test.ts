import type { DrawOutcome, DrawRequest, Drawn, SwatchPicture } from '../../../runtime/browser/coordinator.worker'
import type { Wanted } from './evaluation'
import { ROUGH, openEvaluation } from './evaluation'

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

describe('drawing', () => {
  it('is rough first, then sharp', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a'))
    expect(worker.documents()).toEqual([`a@${ROUGH}`])
    await worker.asked[0]!.answer(drawn())
    expect(store.getState().state).toBe('rough')
    expect(worker.documents()).toEqual([`a@${ROUGH}`, 'a@512'])
    await worker.asked[1]!.answer(drawn())
    expect(store.getState().state).toBe('sharp')
  })

  it('lets a rough pass finish during a drag, skips what lies between, and ends with the newest', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    for (const name of ['a', 'b', 'c', 'd']) want(wanted(name))
    await worker.asked[0]!.answer(drawn())
    expect(worker.documents()).toEqual([`a@${ROUGH}`, `d@${ROUGH}`])
    await worker.asked[1]!.answer(drawn())
    await worker.asked[2]!.answer(drawn())
    expect(worker.documents()[2]).toBe('d@512')
    expect(store.getState().state).toBe('sharp')
  })

  it('gives a sharp pass up for anything newer', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a'))
    await worker.asked[0]!.answer(drawn())
    want(wanted('b'))
    expect(worker.documents()).toEqual([`a@${ROUGH}`, 'a@512', `b@${ROUGH}`])
    await worker.asked[1]!.answer(cancelled)
    expect(store.getState().problem).toBeNull()
    await worker.asked[2]!.answer(drawn())
    expect(worker.documents()[3]).toBe('b@512')
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
    await worker.asked[1]!.answer(drawn())
    const { x, y } = store.getState().swatches
    want(wanted('b', ['x', 'y']))
    await worker.asked[2]!.answer(drawn({ swatches: { y: swatch('3') } }))
    expect(store.getState().swatches.x).toBe(x)
    expect([store.getState().swatches.y!.drawn, y!.drawn]).toEqual([2, 1])
  })

  it('go with what is no longer wanted or failed', async () => {
    const worker = slowWorker()
    const { store, want } = openEvaluation(worker)
    want(wanted('a', ['x', 'y']))
    await worker.asked[0]!.answer(drawn({ swatches: { x: swatch('1'), y: swatch('2') } }))
    await worker.asked[1]!.answer(cancelled)
    want(wanted('b', ['x']))
    await worker.asked[2]!.answer(drawn())
    expect(Object.keys(store.getState().swatches)).toEqual(['x'])
    want(wanted('c', ['x']))
    await worker.asked[3]!.answer(cancelled)
    await worker.asked[4]!.answer(drawn({ faults: { x: { message: 'circle' } } }))
    expect(store.getState().swatches).toEqual({})
  })

  it('of the other half of a split go to its own textures', async () => {
    const worker = slowWorker()
    const { store, compare } = openEvaluation(worker)
    const done = compare(wanted('old'))
    const picture = { ...swatch('k'), key: 'k' }
    await worker.asked[0]!.answer(drawn({ textures: { colour: picture } }))
    expect(await done).toBeNull()
    expect(store.getState().textures).toEqual({ main: {}, other: { colour: picture } })
  })
})
