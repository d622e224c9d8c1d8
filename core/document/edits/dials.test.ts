import { applyDials } from '../apply-dials'
import { registry } from '../../nodes/registry.generated'
import { evaluateOutputs } from '../../testing/examples'
import {
  bindDial,
  canDrive,
  dialValueFor,
  driveEnds,
  driverOf,
  makeDial,
  moveDial,
  setDriveEnds,
  setTarget,
  unbind,
} from './dials'
import { shapeOf } from '../../graph/dial-shape'
import { findLayer, findPlain } from './layers'
import { sheet, sound, drives } from '../../testing/sheet'

describe('dials', () => {
  const gain = { node: 'noise', field: 'gain' }

  it('are made from parameters, standing where those stand', async () => {
    const parameter = registry.get('noise')!.params.gain!
    const document = sheet()
    const before = await evaluateOutputs(document, ['noise.grey'], 16)
    const value = Number(applyDials(document).nodes.noise!.params!.gain)
    unbind(document, gain)
    const id = makeDial(document, 'Gain', shapeOf('gain', parameter)!, gain, value)
    sound(document)
    expect(driverOf(document, gain)!.dial.id).toBe(id)
    const after = await evaluateOutputs(document, ['noise.grey'], 16)
    expect(after.fields.get('noise.grey')!.planes[0]).toEqual(before.fields.get('noise.grey')!.planes[0])
  })

  it('keep a number that is bound to them where it was', () => {
    const document = sheet()
    document.nodes.noise!.params = { gain: 0.7 }
    bindDial(document, 'worn', gain, 0.7, shapeOf('gain', registry.get('noise')!.params.gain!)!)
    expect(applyDials(document).nodes.noise!.params!.gain).toBeCloseTo(0.7, 12)
    expect(drives(document).filter((drive) => 'node' in drive)).toHaveLength(1)
  })

  it('stay within the range of what is bound to them, over their whole turn', () => {
    for (const [at, value] of [0, 0.25, 0.5, 1].flatMap((a) => [0, 0.1, 0.5, 0.9, 1].map((v) => [a, v] as const))) {
      const document = sheet()
      const dial = document.dials[0]!
      dial.value = at
      const target = { layer: 'base', field: 'amount' } as const
      bindDial(document, 'worn', target, value, { kind: 'number', min: 0, max: 1 })
      const drive = dial.drives.at(-1)!
      const ends = driveEnds(dial, drive)
      const middle = at > 0 && at < 1
      if (!middle || (value > 0 && value < 1)) expect(at * drive.scale + drive.offset).toBeCloseTo(value, 12)
      expect(drive.scale).not.toBe(0)
      for (const end of ends) expect([at, value, end >= 0 && end <= 1]).toEqual([at, value, true])
      for (const turned of [0, 0.3, 1]) {
        dial.value = turned
        expect(() => applyDials(document)).not.toThrow()
      }
    }
  })

  it('have ranges within their parameters’ when they are new, for every setting of every node', () => {
    for (const [type, { params }] of registry)
      for (const [name, parameter] of Object.entries(params)) {
        const { min = -Infinity, max = Infinity } = shapeOf(name, parameter) ?? {}
        const inside = min >= (parameter.min ?? -Infinity) && max <= (parameter.max ?? Infinity)
        if (shapeOf(name, parameter)?.kind !== 'choice')
          expect([type, name, inside || min === -Infinity]).toEqual([type, name, true])
      }
  })

  it('drive from one value to another', () => {
    const document = sheet()
    const dial = document.dials[0]!
    dial.min = 2
    dial.max = 4
    dial.value = 3
    const drive = dial.drives[0]!
    setDriveEnds(dial, drive, 0.75, 0.25)
    expect(driveEnds(dial, drive)).toEqual([0.75, 0.25])
    expect(dialValueFor(dial, drive, 0.5)).toBe(3)
  })

  it('turn to what gives a wanted value, within their range', () => {
    const document = sheet()
    const { dial, drive } = driverOf(document, gain)!
    expect(dialValueFor(dial, drive, 0.4)).toBe(0.8)
    expect(dialValueFor(dial, drive, 3)).toBe(1)
  })

  it('are what is turned when the target they drive is set, and free targets are set directly', () => {
    const document = sheet()
    setTarget(document, gain, 0.3)
    expect(document.dials[0]!.value).toBe(0.6)
    expect(document.nodes.noise!.params).toBeUndefined()
    setTarget(document, { node: 'noise', field: 'cells.1' }, 3, [8, 8])
    setTarget(document, { layer: 'rust', channel: 'colour', field: 'amount' }, 0.5)
    setTarget(document, { layer: 'rust', channel: 'colour', field: 'value' }, '#112233')
    setTarget(document, { layer: 'wear', entry: 0, field: 'mode' }, 'maximum')
    setTarget(document, { layer: 'nowhere', field: 'amount' }, 0.5)
    const read = sound(document)
    expect(read.nodes.noise!.params).toEqual({ cells: [8, 3] })
    expect(findPlain(read, 'rust')!.cells.colour).toMatchObject({ amount: 0.5, source: { value: '#112233' } })
    expect(findLayer(read, 'wear')!.mask[0]!.mode).toBe('maximum')
  })

  it('drive how much of a node shows, beside a parameter of the same name', () => {
    const document = sheet()
    document.nodes.mixed = { type: 'blend', inputs: { base: 'noise.grey', source: 'noise.grey' } }
    const effect = { node: 'mixed', part: 'effect', field: 'amount' } as const
    const shape = { kind: 'number', min: 0, max: 1 } as const
    const shown = makeDial(document, 'Shown', shape, effect, 0.25)
    makeDial(document, 'Mixed in', shape, { node: 'mixed', field: 'amount' }, 0.75)
    expect(applyDials(sound(document)).nodes.mixed).toMatchObject({ amount: 0.25, params: { amount: 0.75 } })
    setTarget(document, effect, 0.5)
    expect(driverOf(document, effect)!.dial).toMatchObject({ id: shown, value: 0.5 })
    document.dials.find(({ id }) => id === shown)!.max = 2
    document.dials.find(({ id }) => id === shown)!.value = 2
    expect(() => applyDials(document)).toThrow('an amount from 0 to 1')
    unbind(document, effect)
    setTarget(document, effect, 0.4)
    expect(document.nodes.mixed.amount).toBe(0.4)
    setTarget(document, effect, 1)
    expect(document.nodes.mixed).not.toHaveProperty('amount')
  })

  it('drive only what they can', () => {
    const [number] = sheet().dials
    expect(canDrive(number!, { kind: 'whole' })).toBe(true)
    expect(canDrive(number!, { kind: 'colour' })).toBe(false)
    expect(shapeOf('seed', registry.get('noise')!.params.seed!)!.kind).toBe('seed')
    expect(shapeOf('stops', registry.get('gradient-remap')!.params.stops!)).toBeNull()
  })

  it('move among sections', () => {
    const document = sheet()
    makeDial(document, 'Second', { kind: 'number', min: 0, max: 1 }, { layer: 'base', field: 'amount' }, 1)
    moveDial(document, 'second', 'worn', 'Wear')
    expect(document.dials.map(({ id, section }) => [id, section])).toEqual([
      ['second', 'Wear'],
      ['worn', undefined],
    ])
  })
})
