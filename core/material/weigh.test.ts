import { localExecutor } from '#core/engine/local-executor'
import { Pyramids } from '#core/engine/pyramids'
import { registry } from '#core/nodes/registry.generated'
import { documentOf } from '#core/testing/examples'
import { greatestChange, UNSEEN, Weighing, weighedNodes } from './weigh'

const executor = localExecutor(registry)
const pyramids = new Pyramids({ load: () => Promise.reject(new Error('no images here')) })
const node = (type: string, more: object = {}) => ({ type, ...more })
const sheet = () =>
  documentOf({
    nodes: {
      half: node('constant', { params: { value: 0.2 } }),
      same: node('levels', { inputs: { source: 'turned.result' } }),
      turned: node('invert', { inputs: { source: 'half.grey' } }),
      faint: node('levels', { params: { outHigh: 0.999 }, inputs: { source: 'hills.grey' } }),
      hills: node('noise', { params: { cells: [4, 4] } }),
      apart: node('noise', { params: { cells: [2, 2] } }),
      off: node('blur', { off: true, inputs: { source: 'hills.grey' } }),
    },
    layers: [
      {
        kind: 'layer',
        id: 'a',
        name: 'a',
        cells: {
          roughness: { source: { node: 'same.result' } },
          metallic: { source: { node: 'faint.result' } },
          height: { source: { node: 'off.result' } },
        },
      },
    ],
  })

describe('weighing', () => {
  it('goes through what is read, each node after what it reads', () => {
    const order = weighedNodes(sheet())
    expect([...order].sort()).toEqual(['faint', 'half', 'hills', 'off', 'same', 'turned'])
    expect(order.indexOf('hills')).toBeLessThan(order.indexOf('faint'))
    expect(order.indexOf('half')).toBeLessThan(order.indexOf('turned'))
  })

  it('tells by how much each channel changes without a node', async () => {
    const dropped: unknown[] = []
    const weighing = new Weighing(sheet(), registry, { executor, pyramids }, 16, (field) => dropped.push(field))
    expect(greatestChange(await weighing.weigh('same'))).toBeNull()
    // 0.8 becomes 0.2 without the inversion; without what it inverts nothing is put in, and 0.5 shows from below.
    const { change } = await weighing.weigh('turned')
    expect([change.metallic, change.height]).toEqual([0, 0])
    expect(change.roughness).toBeCloseTo(0.6, 6)
    expect((await weighing.weigh('half')).change.roughness).toBeCloseTo(0.3, 6)
    const faint = greatestChange(await weighing.weigh('faint'))!
    expect(faint.channel).toBe('metallic')
    expect(faint.rms).toBeGreaterThan(0)
    expect(faint.rms).toBeLessThan(UNSEEN)
    expect(await weighing.weigh('off')).toEqual({ milliseconds: 0, change: {} })
    weighing.end()
    expect(dropped.length).toBeGreaterThan(4)
  })

  it('times what a node does itself: what it reads is there, and it is made anew', async () => {
    let ticks = 0
    const runs: string[][] = []
    const watched = {
      ...executor,
      run: async (...[pass, signals]: Parameters<typeof executor.run>) => {
        runs.push(pass.units.flatMap((unit) => (unit.kind === 'steps' ? unit.steps.map(({ type }) => type) : [])))
        ticks += 7
        return executor.run(pass, signals)
      },
    }
    const weighing = new Weighing(
      sheet(),
      registry,
      { executor: watched, pyramids },
      32,
      () => {},
      () => ticks,
    )
    await weighing.weigh('hills')
    runs.length = 0
    const { milliseconds } = await weighing.weigh('faint')
    expect(runs.slice(0, 2)).toEqual([['levels'], ['levels']])
    expect(milliseconds).toBe(7)
  })

  it('is given up where it is cancelled', async () => {
    const weighing = new Weighing(sheet(), registry, { executor, pyramids }, 16, () => {})
    await expect(weighing.weigh('faint', () => true)).rejects.toMatchObject({ code: 'cancelled' })
  })
})
