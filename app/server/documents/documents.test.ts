import { randomUUID } from 'node:crypto'
import { canonicalJson } from '#core/hash'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import type { Edit } from '#core/document/patches'
import { editOf, patched, stacksOf } from '#core/document/patches'
import { database } from '../database/database.server'
import { editsSince, openDocument } from './documents.server'
import { askForMissingPictures, waitForRest } from './pictures.server'
import { documentAt } from './revisions.server'
import { saveEdits } from './saves.server'
import { Problem, problemOf } from '../http/problem.server'
import { loadDemo } from '../projects/demo.server'
import { addDocument, emptyMaterial, setDocumentDeleted } from '../projects/materials.server'
import {
  createProject,
  deleteProject,
  duplicateProject,
  listProjects,
  openProject,
  renameProject,
  undeleteProject,
} from '../projects/projects.server'
import { ownDatabase } from '../testing/own-database'

ownDatabase()

const material = (): MaterialDocument =>
  parseDocument({
    ...emptyMaterial('Wall'),
    nodes: { n: { type: 'noise' } },
    dials: [{ id: 'd', label: 'D', default: 0, value: 0, drives: [{ node: 'n', field: 'gain' }] }],
  })
const newDocument = async (): Promise<string> => addDocument(await createProject('Project'), material())
const status = async (work: Promise<unknown>): Promise<number> =>
  work.then(
    () => 200,
    (error: unknown) => (error instanceof Problem ? error.status : 500),
  )

/** Ten edits of different kinds. */
const TEN: [string, (draft: MaterialDocument) => void][] = [
  ['Rename', (d) => void (d.name = 'Old wall')],
  ['Dial', (d) => void (d.dials[0]!.value = 0.4)],
  ['Add a node', (d) => void (d.nodes.c = { type: 'cells', params: { cells: [4, 4] } })],
  ['Parameter', (d) => void (d.nodes.n!.params = { octaves: 3 })],
  [
    'Add a layer',
    (d) => void d.layers.push({ kind: 'layer', id: 'moss', name: 'Moss', amount: 1, mask: [], cells: {} }),
  ],
  ['Move a layer', (d) => void d.layers.reverse()],
  [
    'Mask',
    (d) => void d.layers[0]!.mask.push({ source: { node: 'c.value' }, mode: 'multiply', amount: 1, invert: false }),
  ],
  [
    'Group',
    (d) =>
      void (d.layers = [{ kind: 'group', id: 'g', name: 'G', amount: 1, mask: [], closed: true, layers: d.layers }]),
  ],
  ['Remove a node', (d) => void delete d.nodes.n],
  ['Metres', (d) => void (d.domain = { kind: 'tile', metres: [2, 1] })],
]

describe('revisions', () => {
  test('ten mixed edits are undone one by one after a reload, and redone', async () => {
    const id = await newDocument()
    const states = [canonicalJson((await openDocument(id)).document)]
    for (const [label, change] of TEN) {
      const { document, head } = await openDocument(id)
      await saveEdits(id, { base: head, edits: [editOf(document, label, change)!] })
      states.push(canonicalJson((await openDocument(id)).document))
    }
    expect(new Set(states).size).toBe(11)
    for (let i = 9; i >= 0; i--) {
      const { head, undo } = await openDocument(id) // a reload each time
      const about = undo.at(-1)!
      expect(about.label).toBe(TEN[i]![0])
      await saveEdits(id, {
        base: head,
        edits: [
          {
            ...about,
            id: crypto.randomUUID(),
            kind: 'undo',
            of: about.id,
            patches: about.inverse,
            inverse: about.patches,
          },
        ],
      })
      expect(canonicalJson((await openDocument(id)).document)).toBe(states[i])
    }
    for (let i = 0; i < 10; i++) {
      const { head, redo } = await openDocument(id)
      const about = redo.at(-1)!
      await saveEdits(id, { base: head, edits: [{ ...about, id: crypto.randomUUID(), kind: 'redo', of: about.id }] })
      expect(canonicalJson((await openDocument(id)).document)).toBe(states[i + 1])
    }
    expect((await openDocument(id)).head).toBe(30)
    for (const revision of [0, 5, 10, 20, 30]) expect(states).toContain(canonicalJson(await documentAt(id, revision)))
  })

  test('what was stored by a program that lacked a member is read on, with edits of that member', async () => {
    const id = await newDocument()
    await database()('revisions')
      .where({ document_id: id, number: 0 })
      .update({ snapshot: database().raw(`snapshot - 'presets'`) })
    const before = await documentAt(id, 0)
    const edit = editOf(before, 'Preset', (draft) => void (draft.presets.calm = { name: 'Calm', values: { d: 0 } }))!
    await saveEdits(id, { base: 0, edits: [edit] })
    expect((await documentAt(id, 1)).presets).toEqual({ calm: { name: 'Calm', values: { d: 0 } } })
  })

  test('undo, redo and new edits in any order lead to the stacks that the whole history tells', async () => {
    const id = await newDocument()
    const history: { id: string; kind: Edit['kind'] | 'start'; of?: string }[] = []
    let draws = 7
    const drawn = (below: number): number => (draws = (draws * 48271) % 2147483647) % below
    for (let i = 0; i < 60; i++) {
      const { document, head, undo, redo } = await openDocument(id)
      const told = stacksOf(history)
      expect([undo.map((edit) => edit.id), redo.map((edit) => edit.id)]).toEqual([
        told.undo.map((edit) => edit.id),
        told.redo.map((edit) => edit.id),
      ])
      const kind = (['edit', 'undo', 'redo', 'undo', 'redo'] as const)[drawn(5)]!
      const about = kind === 'undo' ? undo.at(-1) : redo.at(-1)
      const edit: Edit =
        kind === 'edit' || !about
          ? editOf(document, `Seed ${i}`, (draft) => void (draft.seed = 1000 + i))!
          : kind === 'undo'
            ? { ...about, id: crypto.randomUUID(), kind, of: about.id, patches: about.inverse, inverse: about.patches }
            : { ...about, id: crypto.randomUUID(), kind, of: about.id }
      // Whoever is not on top has no turn.
      const wrong = [...undo.slice(0, -1), ...redo].at(0)
      if (wrong)
        expect(
          await status(
            saveEdits(id, { base: head, edits: [{ ...wrong, id: crypto.randomUUID(), kind: 'undo', of: wrong.id }] }),
          ),
        ).toBe(409)
      await saveEdits(id, { base: head, edits: [edit] })
      history.push(edit)
    }
  })

  test('a clash answers 409 and overwrites nothing; a save sent twice counts once', async () => {
    const id = await newDocument()
    const { document } = await openDocument(id)
    const mine = editOf(document, 'Mine', (d) => void (d.seed = 1))!
    const theirs = editOf(document, 'Theirs', (d) => void (d.seed = 2))!
    expect(await saveEdits(id, { base: 0, edits: [theirs] })).toEqual({ head: 1 })
    expect(await status(saveEdits(id, { base: 0, edits: [mine] }))).toBe(409)
    expect(await saveEdits(id, { base: 0, edits: [theirs] })).toEqual({ head: 1 })
    // The id of an edit cannot be used twice.
    const twice = editOf((await openDocument(id)).document, 'Twice', (d) => void (d.seed = 3))!
    const refused = await saveEdits(id, { base: 1, edits: [{ ...twice, id: theirs.id }] }).catch(problemOf)
    expect(refused).toMatchObject({ status: 409 })
    expect((await openDocument(id)).document.seed).toBe(2)
    expect((await editsSince(id, 0)).edits.map(({ label }) => label)).toEqual(['Theirs'])
  })

  test('edits that do not fit, make no document, or cannot be taken back are refused', async () => {
    const id = await newDocument()
    const { document } = await openDocument(id)
    const sound = editOf(document, 'Seed', (d) => void (d.seed = 1))!
    const bad: [number, Partial<Edit>][] = [
      [422, { patches: [{ op: 'replace', path: ['nobody', 'there', 'x'], value: 1 }] }],
      [422, { inverse: [{ op: 'replace', path: ['seed'], value: 99 }] }],
      [
        422,
        {
          patches: [{ op: 'replace', path: ['name'], value: 'a\u0000b' }],
          inverse: [{ op: 'replace', path: ['name'], value: 'Wall' }],
        },
      ],
      [422, { patches: [{ op: 'add', path: ['__proto__', 'polluted'], value: true }] }],
      [409, { kind: 'undo', of: crypto.randomUUID() }],
    ]
    for (const [code, change] of bad)
      expect([code, change, await status(saveEdits(id, { base: 0, edits: [{ ...sound, ...change }] }))]).toEqual([
        code,
        change,
        code,
      ])
    await expect(
      saveEdits(id, { base: 0, edits: [{ ...sound, patches: [{ op: 'replace', path: ['seed'], value: -1 }] }] }),
    ).rejects.toThrow('seed: ')
    expect(await openDocument(id)).toMatchObject({ head: 0, document: { seed: 0 } })
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined()
  })

  test('twenty editors at once: every edit is there once, in one order', async () => {
    const id = await newDocument()
    await Promise.all(
      Array.from({ length: 20 }, async (_, k) => {
        for (let tries = 0; ; tries++) {
          const { document, head } = await openDocument(id)
          const edit = editOf(document, `Editor ${k}`, (d) => void (d.nodes[`n${k}`] = { type: 'constant' }))!
          if ((await status(saveEdits(id, { base: head, edits: [edit] }))) === 200) return
          if (tries > 200) throw new Error('no luck')
        }
      }),
    )
    const { head, document } = await openDocument(id)
    expect(head).toBe(20)
    expect(Object.keys(document.nodes).filter((name) => /^n\d+$/.test(name))).toHaveLength(20)
  })

  test('any of 120 revisions can be had; every fiftieth is kept whole', async () => {
    const id = await newDocument()
    let { document } = await openDocument(id)
    for (let i = 0; i < 12; i++) {
      const edits = Array.from({ length: 10 }, (_, k) => {
        const edit = editOf(document, 'Seed', (d) => void (d.seed = i * 10 + k + 1))!
        document = { ...document, seed: i * 10 + k + 1 }
        return edit
      })
      await saveEdits(id, { base: i * 10, edits })
    }
    for (const revision of [0, 1, 49, 50, 51, 99, 100, 120])
      expect((await documentAt(id, revision)).seed).toBe(revision)
    expect(await status(documentAt(id, 121))).toBe(404)
    const kept = (await database()('revisions')
      .where({ document_id: id })
      .whereNotNull('snapshot')
      .orderBy('number')
      .select('number')) as { number: number }[]
    expect(kept.map(({ number }) => number)).toEqual([0, 50, 100])
  })
})

test('a picture that nobody came to ask for is asked for when its project is opened, once', async () => {
  const project = await createProject('Pictures')
  const { id } = (await openProject(project)).documents[0]!
  const asked = async (): Promise<number[]> =>
    ((await database()('runs').where({ document_id: id, kind: 'picture' }).orderBy('revision')) as Asked[]).map(
      ({ revision }) => revision,
    )
  interface Asked {
    revision: number
  }
  await askForMissingPictures(project)
  expect(await asked()).toEqual([0])
  await database()('runs').where({ document_id: id }).update({ state: 'failed' })
  const { document } = await openDocument(id)
  await saveEdits(id, { base: 0, edits: [editOf(document, 'Seed', (d) => void (d.seed = 1))!] })
  await askForMissingPictures(project)
  await askForMissingPictures(project)
  expect(await asked()).toEqual([0, 1])
})

test('a picture waits for edits to rest, but not for ever', () => {
  const waits: number[] = []
  for (let now = 0; now <= 40_000; now += 1000) waits.push(waitForRest(now, 0))
  expect(waits.slice(0, 28)).toEqual(Array<number>(28).fill(3000))
  expect(waits.slice(28, 31)).toEqual([2000, 1000, 0])
  expect(Math.max(...waits.slice(31))).toBe(0)
})

describe('one edit on the newest revision', () => {
  const rowsOf = async (id: string): Promise<unknown> => {
    const { rows } = await database().raw<{ rows: unknown[] }>(
      `select number, kind, of, below, label, patches, inverse, snapshot is not null as whole from revisions
       where document_id = ? order by number`,
      [id],
    )
    const [document] = (await database()('documents').where({ id })) as Record<string, unknown>[]
    const { head, undo_top, tip, name, summary } = document!
    return { rows, head, undo_top, tip, name, summary }
  }
  const edits = (): Edit[] => {
    let document = material()
    return TEN.map(([label, change]) => {
      const edit = editOf(document, label, change)!
      document = patched(document, edit.patches)
      return edit
    })
  }

  test('is stored as one of several is', async () => {
    const [one, several] = [await newDocument(), await newDocument()]
    for (const id of [one, several]) await openDocument(id)
    const list = edits()
    for (const [base, edit] of list.entries()) await saveEdits(one, { base, edits: [edit] })
    await saveEdits(several, { base: 0, edits: list.map((edit) => ({ ...edit, id: randomUUID() })) })
    expect(await rowsOf(one)).toEqual(await rowsOf(several))
  })

  test('on a revision that others have moved on from, or of a document that was deleted, leaves nothing', async () => {
    const id = await newDocument()
    await openDocument(id)
    const [first, second, third] = edits() as [Edit, Edit, Edit]
    await saveEdits(id, { base: 0, edits: [first] })
    // Another process saves; this one still takes revision 1 for the newest.
    await database().raw(
      `insert into revisions (document_id, number, kind, below, label, edit_id, patches, inverse)
       select document_id, 2, kind, 1, label, ?, patches, inverse from revisions where document_id = ? and number = 1`,
      [randomUUID(), id],
    )
    await database()('documents').where({ id }).update({ head: 2, undo_top: 2, tip: 2 })
    const before = await rowsOf(id)
    expect(await status(saveEdits(id, { base: 1, edits: [second] }))).toBe(409)
    expect(await rowsOf(id)).toEqual(before)
    await saveEdits(id, { base: 2, edits: [second] })
    await setDocumentDeleted(id, true)
    expect(await status(saveEdits(id, { base: 3, edits: [third] }))).toBe(404)
    expect(await rowsOf(id)).toMatchObject({ head: 3 })
  })

  test('that names an image nobody imported is refused', async () => {
    const id = await newDocument()
    const { document } = await openDocument(id)
    const edit = editOf(document, 'Image', (draft) => {
      draft.nodes.i = { type: 'image', params: { image: `sha256:${'a'.repeat(64)}` } }
    })!
    expect(await status(saveEdits(id, { base: 0, edits: [edit] }))).toBe(422)
  })
})

describe('projects', () => {
  test('new, rename, duplicate, delete, bring back', async () => {
    const id = await createProject('  Harbour  ')
    await renameProject(id, 'Harbour wall')
    const copy = await duplicateProject(id)
    expect((await openProject(copy)).documents).toHaveLength(1)
    await deleteProject(id)
    expect((await listProjects()).map((project) => project.name)).not.toContain('Harbour wall')
    expect(await status(openProject(id))).toBe(404)
    await undeleteProject(id)
    expect((await listProjects()).map((project) => project.name)).toEqual(
      expect.arrayContaining(['Harbour wall', 'Harbour wall, copy']),
    )
    expect(await status(createProject('   '))).toBe(400)
  })

  test('the demo is loaded once, and not again after it was deleted', async () => {
    expect((await loadDemo('demo:test', 'Demo', [material()]))!.documents).toHaveLength(1)
    expect(await loadDemo('demo:test', 'Demo', [material()])).toBeNull()
  })
})
