import { stepInWords, turnInWords } from './step-words'

it('a step says what it was, and whose', () => {
  const step = { label: 'Move Grime', byOthers: false, beneath: false, done: true }
  expect(stepInWords('undo', step)).toBe('Undone: move Grime')
  expect(stepInWords('redo', { ...step, byOthers: true })).toBe('Redone, an edit of another tab: move Grime')
  expect(stepInWords('undo', { ...step, beneath: true })).toBe(
    'Undone, your own edit: move Grime. Newer ones of another tab stay.',
  )
  expect(stepInWords('undo', { ...step, done: false })).toContain('Not undone: move Grime. Another tab')
  expect(stepInWords('undo', null)).toBe('Nothing to undo.')
  expect(turnInWords('redo', 'Radius of Blur')).toBe('Redone: radius of Blur')
})
