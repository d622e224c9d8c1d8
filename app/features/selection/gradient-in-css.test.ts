import { gradientInCss } from './gradient-in-css'

const stops = [
  { at: 0.2, colour: '#000000' },
  { at: 0.8, colour: '#ffffff' },
]

test('stepped stops are flat up to the next one', () => {
  expect(gradientInCss(stops, 'linear', 'stepped')).toBe(
    'linear-gradient(to right, #000000 20%, #000000 80%, #ffffff 80%)',
  )
})

test('the middle is that of the space colours are mixed in: 188 of 255 is half as much light', () => {
  // IEC 61966-2-1: linear 0.5 is encoded as 0.7354, which is 188 of 255.
  expect(gradientInCss(stops, 'linear', 'linear')).toContain('#bcbcbc 50%')
  // 127.5 of 255, which may go either way.
  expect(gradientInCss(stops, 'srgb', 'linear')).toMatch(/#(7f7f7f|808080) 50%/)
})

test('eased is flatter at the ends: a quarter of the way is 3/16 − 1/32 of the change', () => {
  // 3t² − 2t³ at t = 1/4 is 0.15625; as sRGB values 39.8 of 255.
  expect(gradientInCss(stops, 'srgb', 'smooth')).toContain('#282828 35%')
})

test('one stop is one colour', () => {
  expect(gradientInCss([stops[0]!], 'oklab', 'linear')).toBe('linear-gradient(to right, #000000 20%, #000000)')
})
