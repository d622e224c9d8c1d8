import { isFound } from './tags'

it.each([
  ['', true],
  ['quay', true],
  ['SETTS wet', true],
  ['wet quay ', true],
  ['dry', false],
  ['quay dry', false],
])('%j finds a material by its name and tags: %s', (sought, found) => {
  expect(isFound({ name: 'Quay setts', tags: ['stone', 'wet'] }, sought.trim())).toBe(found)
})
