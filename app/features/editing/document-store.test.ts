import fc from 'fast-check'
import type { MaterialDocument } from '#core/graph/document'
import { parseDocument } from '#core/graph/document'
import { canonicalJson } from '#core/content-key'
import type { EditingHost } from './document-store'
import { openEditing } from './document-store'
import type { Edit } from './patches'
import { editOf, joined, overlap, patched, stacksOf } from './patches'

const start = parseDocument({
  format: 'amber-grist/material',
  version: 1,
  name: 'Wall',
  domain: { kind: 'tile', metres: [1, 1] },
  layers: [
    { kind: 'layer', id: 'a', name: 'A', cells: { height: { source: { value: 0.3 } } } },
    { kind: 'layer', id: 'b', name: 'B' },
  ],
  dials: [{ id: 'd', label: 'D', default: 0, value: 0, drives: [] }],
})

/** A server in memory that keeps the rule of the real one: nothing is appended to another head. */
function server() {
  const history: Edit[] = []
  const pendingTimers: (() => void)[] = []
  const state = { away: false, loseAnswers: false, kept: null as unknown, sends: 0 }
  const host = (): EditingHost => ({
    send: async (base, edits) => {
      state.sends++
      if (state.away) throw new Error('away')
      const fresh = edits.filter((edit) => !history.some((one) => one.id === edit.id))
      const known = Math.max(base, ...edits.map((edit) => history.findIndex((one) => one.id === edit.id) + 1))
      if (fresh.length && known !== history.length) return { status: 409 }
      history.push(...fresh)
      if (state.loseAnswers) throw new Error('the answer got lost')
      return { status: 200, head: history.length }
    },
    since: async (head) => {
      if (state.away) throw new Error('away')
      return { head: history.length, edits: history.slice(head) }
    },
    keep: (unsent) => void (state.kept = structuredClone(unsent)),
    later: (work) => void pendingTimers.push(work),
  })
  const current = (): MaterialDocument => history.reduce((document, edit) => patched(document, edit.patches), start)
  const open = () => openEditing({ head: history.length, document: current(), ...stacksOf(history) }, host())
  const tick = async () => {
    for (const work of pendingTimers.splice(0)) work()
    await settle()
  }
  return { history, state, open, current, tick }
}
const settle = () => new Promise((resolve) => setTimeout(resolve, 5))
const setSeed = (seed: number) => (draft: MaterialDocument) => void (draft.seed = seed)
const setDial = (value: number) => (draft: MaterialDocument) => void (draft.dials[0]!.value = value)

test('edits show at once and are saved in order; undo and redo append', async () => {
  const { open, history, current } = server()
  const control = open()
  control.edit('Seed', setSeed(1))
  control.edit('Seed', setSeed(2))
  expect(control.store.getState()).toMatchObject({ document: { seed: 2 }, save: 'saving' })
  control.undo()
  await settle()
  expect(control.store.getState()).toMatchObject({ document: { seed: 1 }, save: 'saved', head: 3, pending: [] })
  control.redo()
  await settle()
  expect(history.map(({ kind }) => kind)).toEqual(['edit', 'edit', 'undo', 'redo'])
  expect(current().seed).toBe(2)
  expect(control.store.getState().redo).toEqual([])
})

test('a drag is one edit with its inverse; one that comes back is none', async () => {
  const { open, history } = server()
  const control = open()
  for (const v of [0.1, 0.2, 0.3]) control.drag('D', setDial(v))
  expect(control.store.getState()).toMatchObject({ document: { dials: [{ value: 0.3 }] }, pending: [] })
  control.drop()
  await settle()
  expect(history).toHaveLength(1)
  expect(history[0]).toMatchObject({
    label: 'D',
    patches: [{ op: 'replace', path: ['dials', 0, 'value'], value: 0.3 }],
    inverse: [{ op: 'replace', path: ['dials', 0, 'value'], value: 0 }],
  })
  control.drag('D', setDial(0.9))
  control.drag('D', setDial(0.3))
  control.drop()
  await settle()
  expect(history).toHaveLength(1)
})

test('while the server is away edits are kept, and sent when it is back', async () => {
  const { open, history, state, tick } = server()
  const control = open()
  state.away = true
  control.edit('Seed', setSeed(1))
  control.edit('D', setDial(0.5))
  await settle()
  expect(control.store.getState()).toMatchObject({
    save: 'away',
    pending: [{ label: 'Seed' }, { label: 'D' }],
    document: { seed: 1 },
  })
  expect(state.kept).toMatchObject({ head: 0, edits: [{ label: 'Seed' }, { label: 'D' }] })
  state.away = false
  await tick()
  expect(history).toHaveLength(2)
  expect(control.store.getState()).toMatchObject({ save: 'saved', head: 2, pending: [] })
  expect(state.kept).toBeNull()
})

test('an answer that got lost saves nothing twice', async () => {
  const { open, history, state, tick } = server()
  const control = open()
  state.loseAnswers = true
  control.edit('Seed', setSeed(1))
  await settle()
  state.loseAnswers = false
  await tick()
  expect(history).toHaveLength(1)
  expect(control.store.getState()).toMatchObject({ save: 'saved', head: 1 })
})

test('two tabs: what one saves the other sees; edits to other parts merge', async () => {
  const { open, history, current } = server()
  const [one, two] = [open(), open()]
  one.edit('Seed', setSeed(7))
  await settle()
  two.remote(history.length)
  await settle()
  expect(two.store.getState()).toMatchObject({ document: { seed: 7 }, head: 1, undo: [{ label: 'Seed' }] })
  // Both edit before hearing of the other, in different parts.
  one.edit('D', setDial(0.4))
  await settle()
  two.edit('Seed', setSeed(8))
  await settle()
  await settle()
  expect(current()).toMatchObject({ seed: 8, dials: [{ value: 0.4 }] })
  expect(two.store.getState()).toMatchObject({ save: 'saved', document: { seed: 8, dials: [{ value: 0.4 }] } })
})

test.each(['keepMine', 'dropMine'] as const)(
  'two tabs on the same part: the user chooses (%s), nothing is lost silently',
  async (choice) => {
    const { open, history, current } = server()
    const [one, two] = [open(), open()]
    one.edit('D', setDial(0.4))
    await settle()
    two.edit('D', setDial(0.9))
    await settle()
    expect(two.store.getState()).toMatchObject({
      save: 'clash',
      document: { dials: [{ value: 0.9 }] },
      pending: [{ label: 'D' }],
    })
    expect(current().dials[0]!.value).toBe(0.4)
    await two[choice]()
    await settle()
    expect(two.store.getState()).toMatchObject({ save: 'saved', pending: [] })
    expect(current().dials[0]!.value).toBe(choice === 'keepMine' ? 0.9 : 0.4)
    expect(history).toHaveLength(choice === 'keepMine' ? 2 : 1)
    two.undo()
    await settle()
    expect(current().dials[0]!.value).toBe(choice === 'keepMine' ? 0.4 : 0)
  },
)

test('after a merge undo takes back what the history has last, and the server agrees', async () => {
  const { open, history, current } = server()
  const [one, two] = [open(), open()]
  one.edit('D', setDial(0.4))
  await settle()
  two.edit('Seed', setSeed(8))
  await settle()
  await settle()
  expect(two.store.getState().undo.map(({ label }) => label)).toEqual(['D', 'Seed'])
  two.undo()
  await settle()
  expect(history.at(-1)).toMatchObject({ kind: 'undo', of: history[1]!.id })
  expect(current()).toMatchObject({ seed: 0, dials: [{ value: 0.4 }] })
})

test('a drag goes on while others save; undo during a drag ends it first', async () => {
  const { open, history, current } = server()
  const [one, two] = [open(), open()]
  two.drag('D', setDial(0.5))
  one.edit('Seed', setSeed(7))
  await settle()
  two.remote(1)
  await settle()
  expect(two.store.getState()).toMatchObject({ document: { seed: 7, dials: [{ value: 0.5 }] } })
  two.drag('D', setDial(0.6))
  two.undo()
  await settle()
  await settle()
  expect(history.map(({ label, kind }) => `${kind} ${label}`)).toEqual(['edit Seed', 'edit D', 'undo D'])
  expect(current()).toMatchObject({ seed: 7, dials: [{ value: 0 }] })
})

test('three hundred edits made while the server was away arrive in portions', async () => {
  const { open, history, state, tick } = server()
  const control = open()
  state.away = true
  for (let i = 1; i <= 300; i++) control.edit('Seed', setSeed(i))
  await settle()
  state.away = false
  const before = state.sends
  await tick()
  await settle()
  expect([history.length, state.sends - before]).toEqual([300, 2])
  expect(control.store.getState()).toMatchObject({ save: 'saved', head: 300 })
})

test('an edit that has no place although nobody saved is told once, not sent for ever', async () => {
  let sends = 0
  const control = openEditing(
    { head: 0, document: start, undo: [], redo: [] },
    {
      send: async () => ({ status: 409, error: `no place ${++sends}` }),
      since: async () => ({ head: 0, edits: [] }),
      keep: () => {},
      later: () => {},
    },
  )
  control.edit('Seed', setSeed(1))
  await settle()
  await settle()
  expect(control.store.getState()).toMatchObject({ save: 'refused', problem: 'no place 1' })
  expect(sends).toBe(1)
})

test('edits of a closed tab are put on top where they fit, else the user is asked', async () => {
  const { open, history, current } = server()
  const left = { head: 0, edits: [editOf(start, 'Seed', setSeed(3))!] }
  const other = open()
  other.edit('D', setDial(0.2))
  await settle()
  const fits = open()
  await fits.adopt(left)
  await settle()
  expect(current()).toMatchObject({ seed: 3, dials: [{ value: 0.2 }] })
  const clashing = open()
  await clashing.adopt({ head: 0, edits: [editOf(start, 'D', setDial(0.8))!] })
  expect(clashing.store.getState()).toMatchObject({ save: 'clash', document: { dials: [{ value: 0.8 }] } })
  await clashing.keepMine()
  await settle()
  expect(current().dials[0]!.value).toBe(0.8)
  expect(history).toHaveLength(3)
})

test('a refused edit is shown with the reason and can be given up', async () => {
  const control = openEditing(
    { head: 0, document: start, undo: [], redo: [] },
    {
      send: async () => ({ status: 422, error: 'seed: no' }),
      since: async () => ({ head: 0, edits: [] }),
      keep: () => {},
      later: () => {},
    },
  )
  control.edit('Seed', setSeed(-5))
  await settle()
  expect(control.store.getState()).toMatchObject({ save: 'refused', problem: 'seed: no', document: { seed: -5 } })
  await control.dropMine()
  expect(control.store.getState()).toMatchObject({ save: 'saved', document: { seed: 0 } })
})

describe('patches', () => {
  it('take no notice of what a change returns', () => {
    const edit = editOf(start, 'Id', (draft) => (draft.name = 'Fence'))!
    expect(patched(start, edit.patches).name).toBe('Fence')
    expect(editOf(start, 'Nothing', () => 5)).toBeNull()
  })

  it('replace whole members where there would be more than one save takes', () => {
    const many = (value: number) => ({
      ...start,
      taps: Object.fromEntries(Array.from({ length: 2500 }, (_, i) => [`t${i}`, { node: `n${value}.grey` }])),
    })
    const edit = joined(many(1), many(2), 'Return')!
    expect(edit.patches).toHaveLength(1)
    expect(patched(many(1), edit.patches)).toEqual(many(2))
    expect(patched(many(2), edit.inverse)).toEqual(many(1))
  })

  test('a gesture joined into one edit leads there and back, whatever changed', () => {
    const json = fc.letrec((tie) => ({
      value: fc.oneof(
        { maxDepth: 3 },
        fc.integer(),
        fc.string(),
        fc.boolean(),
        fc.constant(null),
        fc.array(tie('value'), { maxLength: 3 }),
        fc.dictionary(fc.constantFrom('a', 'b', 'c'), tie('value')),
      ),
    })).value
    const object = fc.dictionary(fc.constantFrom('p', 'q', 'r'), json)
    fc.assert(
      fc.property(object, object, (before, after) => {
        const edit = joined(before, after, '')
        if (edit === null) return canonicalJson(before) === canonicalJson(after)
        const there = patched(before, edit.patches)
        return (
          canonicalJson(there) === canonicalJson(after) &&
          canonicalJson(patched(there, edit.inverse)) === canonicalJson(before)
        )
      }),
      { seed: 3, numRuns: 1000 },
    )
  })

  test('overlap: the same member, a member inside, positions in one list', () => {
    const edit = (...path: (string | number)[]): Edit[] => [
      { id: '', kind: 'edit', label: '', patches: [{ op: 'replace', path, value: 1 }], inverse: [] },
    ]
    expect(overlap(edit('seed'), edit('seed'))).toBe(true)
    expect(overlap(edit('nodes', 'a'), edit('nodes', 'a', 'params'))).toBe(true)
    expect(overlap(edit('nodes', 'a'), edit('nodes', 'b'))).toBe(false)
    expect(overlap(edit('layers', 0, 'name'), edit('layers', 1, 'name'))).toBe(true)
    expect(overlap(edit('layers', 0), edit('seed'))).toBe(false)
  })

  test('a new edit after an undo empties the redo stack', () => {
    const entry = (id: string, kind: string, of?: string) => ({ id, kind, of })
    expect(stacksOf([entry('1', 'edit'), entry('2', 'edit'), entry('3', 'undo', '2'), entry('4', 'edit')])).toEqual({
      undo: [entry('1', 'edit'), entry('4', 'edit')],
      redo: [],
    })
    expect(stacksOf([entry('1', 'edit'), entry('2', 'undo', '1')])).toMatchObject({ undo: [], redo: [{ id: '1' }] })
  })
})

test('an edit made while others’ are being taken in waits for them, and lands on top once', async () => {
  const { open, history, current } = server()
  const [one, two] = [open(), open()]
  one.edit('Seed', setSeed(4))
  await settle()
  two.remote(history.length)
  two.edit('Dial', setDial(0.5))
  await settle()
  await settle()
  expect(history.map(({ label }) => label)).toEqual(['Seed', 'Dial'])
  expect(two.store.getState()).toMatchObject({ save: 'saved', head: 2, pending: [] })
  expect(canonicalJson(two.store.getState().document)).toBe(canonicalJson(current()))
})

test('what was saved while nobody told is caught up with at the next connection', async () => {
  const { open, current } = server()
  const [one, two] = [open(), open()]
  one.edit('Seed', setSeed(4))
  one.edit('Seed', setSeed(5))
  await settle()
  two.remote(Infinity)
  await settle()
  expect(canonicalJson(two.store.getState().document)).toBe(canonicalJson(current()))
  expect(two.store.getState().head).toBe(2)
})
