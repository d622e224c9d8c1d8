import { setSlot } from '#core/texture/edit-packing'
import { CHANNELS } from '#core/document/channels'
import { packings as shipped } from '#core/texture/packings/packings.generated'
import type { Packing } from '#core/texture/packing'
import { parsePacking } from '#core/texture/packing'
import type { StoredPacking } from '../../contracts/stored-packing'
import type { PackingHost } from './packing-store'
import { openPackings } from './packing-store'

const USUAL = 'occlusion-rough-metal-y-up'

/** A server in memory with the rule of the real one, and the storage of one tab. */
function server() {
  const stored = new Map<string, StoredPacking>()
  const list = (): StoredPacking[] => [...shipped.map((packing) => ({ packing, revision: null })), ...stored.values()]
  const state = { away: false, later: [] as (() => void)[] }
  const tab = (): PackingHost => {
    const storage = new Map<string, string>()
    return {
      save: async (packing, base) => {
        await Promise.resolve()
        if (state.away) throw new Error('away')
        if ((stored.get(packing.name)?.revision ?? null) !== base) return { status: 409 }
        const fresh = { packing: parsePacking(JSON.parse(JSON.stringify(packing))), revision: (base ?? 0) + 1 }
        stored.set(packing.name, fresh)
        return { status: 200, stored: fresh }
      },
      list: async () => list(),
      remove: async (name) => void stored.delete(name),
      remember: (name, steps) => void storage.set(name, JSON.stringify(steps)),
      recall: (name) => JSON.parse(storage.get(name) ?? '{"undo":[],"redo":[]}') as ReturnType<PackingHost['recall']>,
      later: (work) => void state.later.push(work),
    }
  }
  const open = (name = USUAL, host = tab()) => openPackings({ list: list(), name }, () => CHANNELS, host)
  return { stored, state, tab, open }
}
const settled = async (): Promise<void> => {
  for (let i = 0; i < 20; i++) await Promise.resolve()
}
const put = (value: number) => (packing: Packing) => ({
  ...packing,
  files: setSlot(packing.files, 'normal', 3, { constant: value }, CHANNELS),
})
const alpha = (packing: Packing): unknown => packing.files.find(({ map }) => map === 'normal')!.slots[3]

test('the first edit of a shipped packing makes an own copy; the shipped one stays as it is', async () => {
  const { open, stored } = server()
  const one = open()
  one.edit('Alpha', put(0.5))
  await settled()
  const { packing, notice, save } = one.store.getState()
  expect([packing.title, packing.name]).toEqual(['Occlusion-rough-metal, Y up, own', 'occlusion-rough-metal-y-up-own'])
  expect(notice).toContain('Copied as')
  expect(save).toBe('saved')
  expect(alpha(stored.get(packing.name)!.packing)).toEqual({ constant: 0.5 })
  one.choose(USUAL)
  expect(alpha(one.store.getState().packing)).toBeUndefined()
})

test('undoing the first change takes the copy back, here and on the server; redo makes it again', async () => {
  const { open, stored, state } = server()
  const one = open()
  one.edit('Alpha', put(0.5))
  one.undo()
  await settled()
  expect([...stored.keys()]).toEqual([])
  expect(one.store.getState()).toMatchObject({ packing: { name: USUAL }, save: 'saved', undo: [] })
  expect(
    one.store
      .getState()
      .list.map(({ revision }) => revision)
      .every((revision) => revision === null),
  ).toBe(true)
  one.redo()
  await settled()
  const name = 'occlusion-rough-metal-y-up-own'
  expect(alpha(stored.get(name)!.packing)).toEqual({ constant: 0.5 })
  // Where the server is away, the copy goes as soon as it is back.
  state.away = true
  one.edit('Alpha', put(0.7))
  one.undo()
  one.undo()
  await settled()
  expect(one.store.getState().packing.name).toBe(USUAL)
  state.away = false
  for (const work of state.later.splice(0)) work()
  await settled()
  expect([...stored.keys()]).toEqual([])
})

test('undo and redo, also after a reload of the tab; a gesture is one step', async () => {
  const { open, tab } = server()
  const host = tab()
  const one = open(USUAL, host)
  one.edit('Alpha', put(0.1))
  for (const v of [0.2, 0.3, 0.4]) one.edit('Drag', put(v), true)
  one.rest()
  one.edit('Drag', put(0.9), true)
  await settled()
  const { name } = one.store.getState().packing
  const again = open(name, host)
  const values = [alpha(again.store.getState().packing)]
  for (const step of ['undo', 'undo', 'undo', 'redo'] as const) {
    again[step]()
    values.push(alpha(again.store.getState().packing))
  }
  expect(values).toEqual([{ constant: 0.9 }, { constant: 0.4 }, { constant: 0.1 }, undefined, { constant: 0.1 }])
})

test('edits while one is being saved are saved after it; a server that is away is tried again', async () => {
  const { open, stored, state } = server()
  const one = open()
  one.edit('A', put(0.1))
  one.edit('B', put(0.2))
  one.edit('C', put(0.3))
  await settled()
  const { name } = one.store.getState().packing
  expect(alpha(stored.get(name)!.packing)).toEqual({ constant: 0.3 })
  state.away = true
  one.edit('D', put(0.4))
  await settled()
  expect(one.store.getState().save).toBe('away')
  state.away = false
  state.later.splice(0).forEach((work) => work())
  await settled()
  expect(one.store.getState().save).toBe('saved')
  expect(alpha(stored.get(name)!.packing)).toEqual({ constant: 0.4 })
})

test('two tabs: the slower one sees the other’s change, and has its own one undo away', async () => {
  const { open } = server()
  const one = open()
  one.edit('A', put(0.1))
  await settled()
  const { name } = one.store.getState().packing
  const other = open(name)
  other.edit('B', put(0.2))
  await settled()
  one.edit('C', put(0.3))
  await settled()
  expect(alpha(one.store.getState().packing)).toEqual({ constant: 0.2 })
  expect(one.store.getState().notice).toContain('Another tab')
  one.undo()
  await settled()
  expect(alpha(one.store.getState().packing)).toEqual({ constant: 0.3 })
  expect(one.store.getState().save).toBe('saved')
})

test('a packing that another tab deleted is kept again with the next edit', async () => {
  const { open, stored } = server()
  const one = open()
  one.edit('A', put(0.1))
  await settled()
  const { name } = one.store.getState().packing
  stored.delete(name)
  one.edit('B', put(0.2))
  await settled()
  expect(alpha(stored.get(name)!.packing)).toEqual({ constant: 0.2 })
})

test('packings from files: imported, renamed where the name exists already, refused in words', async () => {
  const { open, stored } = server()
  const one = open()
  one.add('{')
  expect(one.store.getState().notice).toContain('A packing is a JSON file')
  one.add(JSON.stringify({ format: 'amber-grist/packing' }))
  expect(one.store.getState().notice).toContain('version')
  const given = shipped.find(({ name }) => name === USUAL)!
  one.add(JSON.stringify(given))
  await settled()
  expect(one.store.getState().packing.name).toBe('occlusion-rough-metal-y-up-2')
  await one.remove()
  expect(stored.size).toBe(0)
  expect(one.store.getState().notice).toContain('is deleted')
})

test('an edit that cannot be is told and changes nothing', () => {
  const { open } = server()
  const one = open()
  one.edit('Bad', (packing) => ({ ...packing, files: [{ ...packing.files[0]!, bits: 32 }] }))
  expect(one.store.getState().notice).toContain('PNG has no 32-bit form')
  expect(one.store.getState().packing.name).toBe(USUAL)
})
