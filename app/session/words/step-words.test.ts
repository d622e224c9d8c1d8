import { redoneInWords, undoneInWords } from './step-words'

it('a step says what it was', () => {
  expect(undoneInWords('Move Grime')).toBe('Undone: move Grime')
  expect(redoneInWords('Radius of Blur')).toBe('Redone: radius of Blur')
  expect(undoneInWords(null)).toBe('Nothing to undo.')
})
