import { python } from '../testing/python'
import { randomNumbers } from '../testing/random-values'
import { fourierOf, fourierPlane } from './fourier'

const noise = (count: number, seed: number): Float64Array => {
  const next = randomNumbers(seed)
  return Float64Array.from({ length: count }, () => next() - 0.5)
}
const worst = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  Math.max(...Array.from(a, (v, i) => Math.abs(v - b[i]!)))

test.each([1, 2, 3, 8, 12, 31, 64, 100, 257])('a line of %i is what NumPy’s FFT gives', (length) => {
  const [re, im] = [noise(length, 1), noise(length, 2)]
  const expected = ['real', 'imag'].map((part) =>
    python(`out = np.fft.fft(a[0] + 1j * a[1]).${part}`, Float32Array.from([...re, ...im]), [2, length]),
  )
  // NumPy reads what was rounded to 32 bits.
  const [a, b] = [Float64Array.from(Float32Array.from(re)), Float64Array.from(Float32Array.from(im))]
  fourierOf(length).transform(a, b)
  expect(worst(a, expected[0]!)).toBeLessThan(2e-5)
  expect(worst(b, expected[1]!)).toBeLessThan(2e-5)
})

test.each([
  [16, 16],
  [12, 20],
  [5, 64],
])('a plane of %i × %i forth and back is the same', (width, height) => {
  const [re, im] = [noise(width * height, 3), noise(width * height, 4)]
  const [a, b] = [re.slice(), im.slice()]
  fourierPlane(a, b, width, height, () => {})
  fourierPlane(b, a, width, height, () => {})
  expect(
    worst(
      a.map((v) => v / (width * height)),
      re,
    ),
  ).toBeLessThan(1e-12)
  expect(
    worst(
      b.map((v) => v / (width * height)),
      im,
    ),
  ).toBeLessThan(1e-12)
})
