import type { RasterImage } from '../field/pyramid'
import { materialHere } from '../testing/material-here'
import { channelOutput, formatOutput } from './address'
import { documentOfStrands } from './document-of-strands'

const SIDE = 96
/** Three strands, 12 wide, from row 8 to the foot: their left edges. */
const [LEFT, WIDE, TOP] = [[10, 42, 74], 12, 8]
const isStrand = (x: number, y: number): boolean => y >= TOP && LEFT.some((left) => x >= left && x < left + WIDE)

function mask(channels: 1 | 4): RasterImage {
  const values = new Float32Array(SIDE * SIDE * channels)
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) values[(y * SIDE + x) * channels + channels - 1] = Number(isStrand(x, y))
  return { width: SIDE, height: SIDE, channels, bits: 8, float: false, values }
}

async function made(channels: 1 | 4) {
  const document = documentOfStrands({
    image: 'm.png',
    name: 'M',
    width: SIDE,
    height: SIDE,
    isInAlpha: channels === 4,
  })
  // These strands are wide.
  const dials = document.dials.map((dial) => (dial.id === 'round' ? { ...dial, value: 0.06 } : dial))
  const names = ['opacity', 'root', 'tip', 'tone', 'normal', 'height', 'occlusion']
  const outputs = names.map(channelOutput)
  const { fields, faults } = await materialHere({ ...document, dials } as typeof document, {
    images: { load: async () => mask(channels) },
  }).evaluatePartial({ outputs, width: SIDE })
  expect([...faults]).toEqual([])
  const field = (name: string) => fields.get(formatOutput(outputs[names.indexOf(name)]!))!
  return (name: string, x: number, y: number, plane = 0): number => {
    const { planes, stride } = field(name)
    return planes[plane]![y * stride + x]!
  }
}

test.each([1, 4] as const)(
  'a mask in %i channels becomes strands: each with its tone, roots below, tips above',
  async (channels) => {
    const at = await made(channels)
    for (let y = 0; y < SIDE; y += 5)
      for (let x = 0; x < SIDE; x += 3) expect(at('opacity', x, y)).toBeCloseTo(Number(isStrand(x, y)), 5)
    const middles = LEFT.map((left) => left + WIDE / 2)
    for (const x of middles) {
      const down = (name: string): number[] => [TOP + 1, 30, 50, 70, SIDE - 2].map((y) => at(name, x, y))
      const [roots, tips, tones] = [down('root'), down('tip'), down('tone')]
      expect([roots[0], tips.at(-1)]).toEqual([0, 0])
      expect(roots.at(-1)).toBeGreaterThan(0.5)
      expect(tips[0]).toBeGreaterThan(0.3)
      for (let i = 1; i < 5; i++)
        expect([roots[i]! >= roots[i - 1]! - 0.2, tips[i]! <= tips[i - 1]! + 0.2]).toEqual([true, true])
      // One tone along all of a strand, and shade at its foot.
      expect(new Set(tones).size).toBe(1)
      expect(at('occlusion', x, SIDE - 2)).toBeLessThan(at('occlusion', x, 40))
      // Round across: highest in the middle, its sides turned outward.
      expect(at('height', x, 50)).toBeGreaterThan(at('height', x - 4, 50))
      expect([at('normal', x - 5, 50) < -0.05, at('normal', x + 4, 50) > 0.05]).toEqual([true, true])
      expect(Math.abs(at('normal', x - 5, 50, 1))).toBeLessThan(0.1)
    }
    expect(new Set(middles.map((x) => at('tone', x, 50))).size).toBe(3)
    expect([at('tip', 2, 50), at('root', 2, 50)]).toEqual([0, 0])
  },
)
