import fc from 'fast-check'
import { GristError } from '../errors'
import { limitDocument } from '../testing/limit-document'
import { sheet } from '../testing/sheet'
import { applyChecked } from './checked-edit'
import type { MaterialDocument } from './document'
import { parseDocument } from './document'
import type { Patch } from './patches'
import { patched } from './patches'

/** What a work gives: its value, or that it is refused; why is told in other words. */
const outcome = (work: () => unknown): unknown => {
  try {
    return work()
  } catch (error) {
    return error instanceof GristError ? 'refused' : 'misfit'
  }
}

/** Every path of a document, so that patches reach everywhere. */
function pathsOf(value: unknown, path: (string | number)[] = []): (string | number)[][] {
  if (typeof value !== 'object' || value === null) return [path]
  const inside = Object.entries(value).flatMap(([key, member]) =>
    pathsOf(member, [...path, Array.isArray(value) ? Number(key) : key]),
  )
  return path.length > 0 ? [path, ...inside] : inside
}

const junk = fc.oneof(
  fc.constantFrom(null, 0.5, -1, 1e9, true, '#336699', 'noise.grey', '', [], {}),
  fc.constant({ type: 'noise' }),
  fc.constant({ value: 0.25 }),
  fc.constant({ kind: 'layer', id: 'new', name: 'New' }),
  fc.constant({ kind: 'layer', id: 'rust', name: 'A second of this id' }),
)

test('an edit checked by its parts comes to what checking the whole comes to, sound or not', () => {
  const document = sheet()
  const paths = pathsOf(document)
  const patch: fc.Arbitrary<Patch> = fc.record({
    op: fc.constantFrom('replace' as const, 'remove' as const, 'add' as const),
    path: fc
      .tuple(fc.constantFrom(...paths), fc.option(fc.constantFrom('more', 'node', 'amount', 0), { freq: 4 }))
      .map(([path, more]) => (more === null ? path : [...path, more])),
    value: junk,
  })
  fc.assert(
    fc.property(fc.array(patch, { minLength: 1, maxLength: 3 }), (patches) => {
      const own = outcome(() => applyChecked(document, patches))
      const whole = outcome(() => parseDocument(patched(document, patches)))
      expect(JSON.parse(JSON.stringify(own))).toEqual(JSON.parse(JSON.stringify(whole)))
    }),
    { numRuns: 1000 },
  )
})

test('groups beyond the depth are refused before anything goes down into them', () => {
  let deep: unknown = []
  for (let i = 0; i < 200; i++) deep = [{ kind: 'group', id: `g${i}`, name: '', layers: deep }]
  const patches: Patch[] = [{ op: 'replace', path: ['layers'], value: deep }]
  expect(outcome(() => applyChecked(sheet(), patches))).toBe('refused')
})

test('of the largest document, what an edit does not touch is the same object', () => {
  const document = limitDocument(1000, 256)
  const next = applyChecked(document, [{ op: 'replace', path: ['nodes', 'n20', 'params', 'amount'], value: 0.25 }])
  expect(next.nodes.n20!.params).toMatchObject({ amount: 0.25 })
  const shared = (a: MaterialDocument, b: MaterialDocument): number =>
    Object.keys(a.nodes).filter((id) => a.nodes[id] === b.nodes[id]).length
  expect(shared(document, next)).toBe(999)
  expect(next.layers).toBe(document.layers)
})
