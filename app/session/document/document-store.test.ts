import fc from 'fast-check'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { canonicalJson } from '#core/hash'
import type { EditingHost } from './document-store'
import { openEditing } from './document-store'
import type { Edit } from '#core/document/patches'
import { editOf, joined, patched, stacksOf } from '#core/document/patches'

const start = parseDocument({
  format: 'amber-grist/material',
  version: 2,
  name: 'Wall',
  domain: { kind: 'tile', metres: [1, 1] },
  layers: [
    { kind: 'layer', id: 'a', name: 'A', cells: { height: { source: { value: 0.3 } } } },
    { kind: 'layer', id: 'b', name: 'B' },
  ],
  dials: [{ id: 'd', label: 'D', default: 0, value: 0, drives: [] }],
})

/** A server in memory that keeps the rule of the real one: nothing is appended to another head. */
function server(begin = start) {
  const history: Edit[] = []
  const names = new Map<number, string>()
  const pendingTimers: (() => void)[] = []
  const state = {
    away: false,
    loseAnswers: false,
    fails: null as { status: number; error: string } | null,
    kept: null as unknown,
    sends: 0,
  }
  const host = (): EditingHost => ({
    send: async (base, edits) => {
      state.sends++
      if (state.away) throw new Error('away')
      if (state.fails) return state.fails
      const fresh = edits.filter((edit) => !history.some((one) => one.id === edit.id))
      const known = Math.max(base, ...edits.map((edit) => history.findIndex((one) => one.id === edit.id) + 1))
      if (known !== history.length) return { status: 409 }
      history.push(...fresh)
      if (state.loseAnswers) throw new Error('the answer got lost')
      return { status: 200, head: history.length }
    },
    since: async (head) => {
      if (state.away) throw new Error('away')
      return { head: history.length, edits: history.slice(head) }
    },
    storeUnsent: (unsent) => void (state.kept = structuredClone(unsent)),
    later: (work) => void pendingTimers.push(work),
    name: async (revision, name) => void names.set(revision, name),
  })
  const current = (): MaterialDocument => history.reduce((document, edit) => patched(document, edit.patches), begin)
  const open = () => openEditing({ head: history.length, document: current(), ...stacksOf(history) }, host())
  const tick = async () => {
    for (const work of pendingTimers.splice(0)) work()
    await settle()
  }
  return { history, names, state, open, current, tick }
}
const settle = () => new Promise((resolve) => setTimeout(resolve, 2))
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

test.each(['mine', 'theirs'] as const)(
  'two tabs on the same place: the user chooses %s with both values in sight, and nothing is lost',
  async (choice) => {
    const { open, history, names, current } = server()
    const [one, two] = [open(), open()]
    one.edit('D', setDial(0.4))
    one.edit('Elsewhere', (draft) => void (draft.dials[0]!.label = 'Joint'))
    await settle()
    two.edit('D', setDial(0.9))
    two.edit('Seed', setSeed(8))
    await settle()
    expect(two.store.getState()).toMatchObject({
      save: 'clash',
      clashes: [{ path: ['dials', 'd', 'value'], mine: 0.9, theirs: 0.4 }],
      document: { dials: [{ value: 0.9 }] },
    })
    expect(current()).toMatchObject({ seed: 0, dials: [{ value: 0.4 }] })
    two.choose(choice, 'dials/d/value')
    await settle()
    await settle()
    expect(two.store.getState()).toMatchObject({ save: 'saved', pending: [], clashes: [] })
    // What nobody else touched is there whatever was chosen.
    expect(current()).toMatchObject({
      seed: 8,
      dials: [{ label: 'Joint', value: choice === 'mine' ? 0.9 : 0.4 }],
    })
    if (choice === 'mine') return expect(names.size).toBe(0)
    // Mine is a state that can be returned to.
    const revision = [...names.keys()][0]!
    const kept = history.slice(0, revision).reduce((document, edit) => patched(document, edit.patches), start)
    expect(kept).toMatchObject({ seed: 8, dials: [{ label: 'Joint', value: 0.9 }] })
  },
)

test('a clash is about what both come to, whatever was passed on the way; what was changed and changed back is none', async () => {
  const { open, current } = server()
  const [one, two] = [open(), open()]
  one.edit('D', setDial(0.4))
  one.edit('Seed', setSeed(5))
  await settle()
  // The second edit here passes through what the other tab has.
  for (const value of [0.3, 0.4, 0.5, 0.6]) two.edit('D', setDial(value))
  two.edit('Seed', setSeed(1))
  two.edit('Seed', setSeed(0))
  await settle()
  expect(two.store.getState()).toMatchObject({
    save: 'clash',
    clashes: [{ path: ['dials', 'd', 'value'], mine: 0.6, theirs: 0.4 }],
    document: { dials: [{ value: 0.6 }] },
  })
  two.choose('theirs')
  await settle()
  await settle()
  expect(two.store.getState()).toMatchObject({ save: 'saved', pending: [] })
  expect(current()).toMatchObject({ seed: 5, dials: [{ value: 0.4 }] })
})

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
  // What the drag does not touch is taken over, also in the same dial.
  one.edit('Label', (draft) => void (draft.dials[0]!.label = 'Joint'))
  await settle()
  two.remote(2)
  await settle()
  expect(two.store.getState()).toMatchObject({ document: { seed: 7, dials: [{ value: 0.5, label: 'Joint' }] } })
  two.drag('D', setDial(0.6))
  two.undo()
  await settle()
  await settle()
  expect(history.map(({ label, kind }) => `${kind} ${label}`)).toEqual(['edit Seed', 'edit Label', 'edit D', 'undo D'])
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
      storeUnsent: () => {},
      later: () => {},
      name: async () => {},
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
  clashing.choose('mine')
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
      storeUnsent: () => {},
      later: () => {},
      name: async () => {},
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

  test('a new edit after an undo empties the redo stack', () => {
    const entry = (id: string, kind: string, of?: string) => ({ id, kind, of })
    expect(stacksOf([entry('1', 'edit'), entry('2', 'edit'), entry('3', 'undo', '2'), entry('4', 'edit')])).toEqual({
      undo: [entry('1', 'edit'), entry('4', 'edit')],
      redo: [],
    })
    expect(stacksOf([entry('1', 'edit'), entry('2', 'undo', '1')])).toMatchObject({ undo: [], redo: [{ id: '1' }] })
  })
})

test('an edit made while others’ are being merged waits for them, and lands on top once', async () => {
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

test('an answer that comes three times is told; it can be sent again, and is not sent for ever', async () => {
  const { open, state, tick, history } = server()
  const control = open()
  state.fails = { status: 500, error: 'a fault' }
  control.edit('Seed', setSeed(1))
  for (let i = 0; i < 6; i++) await tick()
  expect(control.store.getState()).toMatchObject({ save: 'refused', problem: 'a fault', document: { seed: 1 } })
  expect(state.sends).toBe(3)
  // A database that is away is waited for as long as it takes.
  state.fails = { status: 503, error: 'away' }
  control.sendAgain()
  for (let i = 0; i < 6; i++) await tick()
  expect(control.store.getState()).toMatchObject({ save: 'away' })
  state.fails = null
  await tick()
  expect(control.store.getState()).toMatchObject({ save: 'saved', pending: [] })
  expect(history).toHaveLength(1)
})

test('a save whose answer got lost, with others on top of it, is not taken for the newest', async () => {
  const { open, state, tick, current } = server()
  const [one, two] = [open(), open()]
  state.loseAnswers = true
  one.edit('Seed', setSeed(1))
  await settle()
  state.loseAnswers = false
  two.remote(1)
  await settle()
  two.edit('D', setDial(0.5))
  await settle()
  await tick()
  await settle()
  expect(one.store.getState()).toMatchObject({ save: 'saved', head: 2, document: { seed: 1, dials: [{ value: 0.5 }] } })
  expect(canonicalJson(one.store.getState().base)).toBe(canonicalJson(current()))
})

test('eight people, 400 edits: every edit that was not chosen against is in the result', async () => {
  const nodes = Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`p${i}`, { type: 'constant', params: {} }]))
  const { open, current, tick } = server(parseDocument({ ...start, nodes }))
  const people = Array.from({ length: 8 }, open)
  const random = xorshift(11)
  const layers = new Set<string>()
  const members = new Set<string>()
  /** Values that stand in one place, one after the other or chosen between. */
  const offered = new Map<string, Set<number>>()
  let asked = 0
  /** Chooses by chance; what is chosen against may not stand in the end. */
  const answer = (): void => {
    for (const one of people)
      for (const { key, mine, theirs } of one.store.getState().clashes) {
        const choice = random(2) ? 'mine' : 'theirs'
        asked++
        offered.get(key.split('/')[1]!)!.delete((choice === 'mine' ? theirs : mine) as number)
        one.choose(choice, key)
      }
  }
  for (let n = 0; n < 400; n++) {
    const person = people[random(8)]!
    const place = `p${random(12)}`
    const kind = random(4)
    if (kind === 0) {
      layers.add(`Layer ${n}`)
      person.edit('Add', (draft) => {
        const layer = { kind: 'layer' as const, id: 'new', name: `Layer ${n}`, amount: 1, mask: [], cells: {} }
        // All choose the same id for what they add, as the application does.
        for (let k = 2; draft.layers.some(({ id }) => id === layer.id); k++) layer.id = `new-${k}`
        draft.layers.splice(random(draft.layers.length + 1), 0, layer)
      })
    } else if (kind === 1) {
      offered.set(place, (offered.get(place) ?? new Set()).add(n))
      person.edit('Set', (draft) => void (draft.nodes[place]!.params!.value = n))
    } else {
      members.add(`${place}.e${n}`)
      person.edit('Set', (draft) => void (draft.nodes[place]!.params![`e${n}`] = n))
    }
    if (random(6) === 0) await settle()
    answer()
  }
  for (let round = 0; people.some((one) => one.store.getState().save !== 'saved') || round < 3; round++) {
    expect(round).toBeLessThan(300)
    for (const one of people) one.remote(Infinity)
    await tick()
    answer()
  }
  expect(asked).toBeGreaterThan(10)
  for (const one of people) expect(canonicalJson(one.store.getState().document)).toBe(canonicalJson(current()))
  const result = current()
  expect(result.layers.map(({ name }) => name).sort()).toEqual(['A', 'B', ...layers].sort())
  const there = (path: string): boolean => {
    const [node, member] = path.split('.') as [string, string]
    return Object.hasOwn(result.nodes[node]!.params!, member)
  }
  expect([...members].filter((path) => !there(path))).toEqual([])
  for (const [place, values] of offered) expect(values).toContain(result.nodes[place]!.params!.value)
}, 60_000)

/** Whole numbers below `limit`, the same each time. Source: Marsaglia 2003, Xorshift RNGs. */
function xorshift(seed: number): (max: number) => number {
  let x = seed
  return (limit) => {
    x ^= x << 13
    x ^= x >>> 17
    x ^= x << 5
    return (x >>> 0) % limit
  }
}

/** A document with a node that can be moved about. */
const withNode = parseDocument({
  ...structuredClone(start),
  nodes: { n: { type: 'noise', at: [0, 0] }, c: { type: 'cells' } },
})
const place = (at: [number, number]) => (draft: MaterialDocument) => void (draft.nodes.n!.at = at)

test('where nodes stand is saved, but no step of undo; what is undone leaves them there', async () => {
  const { open, history, current } = server(withNode)
  const control = open()
  control.edit('Seed', setSeed(1))
  control.edit('Delete', (draft) => void delete draft.nodes.c)
  control.arrange(place([40, 50]))
  await settle()
  expect(history.map(({ kind }) => kind)).toEqual(['edit', 'edit', 'arrange'])
  expect(control.undo()).toMatchObject({ label: 'Delete', done: true })
  expect(control.undo()).toMatchObject({ label: 'Seed', done: true })
  expect(control.undo()).toBeNull()
  control.redo()
  await settle()
  expect(current()).toMatchObject({ seed: 1, nodes: { n: { at: [40, 50] }, c: { type: 'cells' } } })
  // Opened again, undo is where it was.
  expect(
    open()
      .store.getState()
      .undo.map(({ label }) => label),
  ).toEqual(['Seed'])
  control.replace('Return', withNode)
  expect(control.store.getState().document.nodes.n!.at).toEqual([40, 50])
  // An undo takes back just what is there: saved, it leads back to what stood.
  const before = history.slice(0, 3).reduce((at, edit) => patched(at, edit.patches), withNode)
  const undone = patched(before, history[3]!.patches)
  expect(canonicalJson(patched(undone, history[3]!.inverse))).toBe(canonicalJson(before))
})

test('an undo that puts back a node which was moved since leads back to where it started', async () => {
  const { open, history, current } = server(withNode)
  const control = open()
  control.edit('Add', (draft) => void (draft.nodes.x = { type: 'noise', at: [1, 1] }))
  control.arrange((draft) => void (draft.nodes.x!.at = [9, 9]))
  control.undo()
  await settle()
  expect(current().nodes.x).toBeUndefined()
  const [, , undo] = history
  const before = history.slice(0, 2).reduce((at, edit) => patched(at, edit.patches), withNode)
  expect(canonicalJson(patched(patched(before, undo!.patches), undo!.inverse))).toBe(canonicalJson(before))
})

test('undo takes back one’s own edits first, beneath others’, and then theirs, and says whose', async () => {
  const { open, history, current } = server()
  const [one, two] = [open(), open()]
  one.edit('Mine first', (draft) => void (draft.layers[0]!.name = 'Mine'))
  await settle()
  two.remote(1)
  await settle()
  two.edit('Theirs', setDial(0.5))
  await settle()
  one.remote(2)
  await settle()
  expect(one.undoable()).toBe('Mine first')
  expect(one.undo()).toEqual({ label: 'Mine first', byOthers: false, beneath: true, done: true })
  expect([one.undoable(), one.redoable()]).toEqual(['Theirs', 'Mine first'])
  await settle()
  expect(current()).toMatchObject({ layers: [{ name: 'A' }, {}], dials: [{ value: 0.5 }] })
  expect(history.map(({ kind, label }) => [kind, label]).at(-1)).toEqual(['edit', 'Undo Mine first'])
  // Again, and it is there again; then both are taken back, one's own first.
  expect(one.redo()).toEqual({ label: 'Mine first', byOthers: false, beneath: true, done: true })
  await settle()
  expect(current().layers[0]!.name).toBe('Mine')
  expect(one.undo()).toMatchObject({ label: 'Mine first', byOthers: false, done: true })
  expect(one.undo()).toMatchObject({ label: 'Theirs', byOthers: true, done: true })
  await settle()
  expect(current()).toMatchObject({ layers: [{ name: 'A' }, {}], dials: [{ value: 0 }] })
  expect(one.undo()).toBeNull()
  expect(one.store.getState().save).toBe('saved')
})

test('an own edit that another tab has changed since is not taken back, and that is told', async () => {
  const { open, current } = server()
  const [one, two] = [open(), open()]
  one.edit('Seed', setSeed(1))
  await settle()
  two.remote(1)
  await settle()
  two.edit('Seed', setSeed(7))
  await settle()
  one.remote(2)
  await settle()
  expect(one.undo()).toMatchObject({ label: 'Seed', byOthers: false, done: false })
  await settle()
  expect(current().seed).toBe(7)
})

test('two tabs that move the same node about are not asked; one that deletes it wins', async () => {
  const { open, current } = server(withNode)
  const [one, two] = [open(), open()]
  one.arrange(place([1, 1]))
  two.arrange(place([2, 2]))
  await settle()
  two.remote(1)
  await settle()
  expect(two.store.getState()).toMatchObject({ save: 'saved', clashes: [] })
  expect(current().nodes.n!.at).toEqual([2, 2])
  one.remote(2)
  await settle()
  one.edit('Delete', (draft) => void delete draft.nodes.n)
  two.arrange(place([3, 3]))
  await settle()
  for (const tab of [one, two]) tab.remote(4)
  await settle()
  expect(two.store.getState()).toMatchObject({ save: 'saved', clashes: [] })
  expect(current().nodes.n).toBeUndefined()
})
