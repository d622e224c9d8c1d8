import { calculate } from './arithmetic'

it.each([
  ['0.5', 0.5],
  ['1/3', 1 / 3],
  [' 2 * (3 + 4) ', 14],
  ['-1 + 0.25', -0.75],
  ['0,5', 0.5],
  ['3×4÷2', 6],
  ['−2', -2],
  ['90°', 0.25],
  ['360/8 deg', 0.125],
  ['7 % 4', 3],
])('%s is %d', (text, value) => expect(calculate(text)).toBeCloseTo(value, 12))

it.each(['', 'abc', '1/0', '2**', 'window', 'alert(1)', '[1]', 'a.b', '1;2', '"3"'])('%s is no number', (text) =>
  expect(calculate(text)).toBeNull(),
)
