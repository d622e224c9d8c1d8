import { EXAMPLE_PART } from '#core/graph/example-part'
import type { ProjectPart } from '../../contracts/parts'
import { othersOn } from './use-other-parts'

const named = (id: string) => ({ id, name: id, head: 3 })
const pieces = (...numbers: number[]) => ({ kind: 'piece-id' as const, numbers })
const place = (part: number, more: Partial<ProjectPart> = {}): ProjectPart => ({
  ...{ part, name: `part ${part}`, triangles: 2, uvSets: 1, material: null, onIds: [] },
  ...{ facts: EXAMPLE_PART, stale: [], drafts: [], ...more },
})
const parts = [
  place(0, { material: named('iron'), onIds: [{ slot: 2, ids: pieces(4), material: named('lime') }] }),
  place(1, { udim: 1001, material: named('iron') }),
  place(1, { udim: 1002, material: named('iron') }),
  place(2),
]
const told = (worked: { part: number; udim?: number }, id: string): string[] =>
  othersOn(parts, worked, id).map(({ at: { part, udim, slot }, material, head, within }) =>
    [
      part,
      udim ?? '-',
      slot ?? '-',
      material,
      head === null ? 'open' : `r${head}`,
      within ? within.isInside : '-',
    ].join(' '),
  )

test('what a model wears beside the material on all of a part', () => {
  expect(told({ part: 0 }, 'iron')).toEqual(['0 - 2 lime r3 true', '1 1001 - iron open -', '1 1002 - iron open -'])
  // Another tile of the same part is another place.
  expect(told({ part: 1, udim: 1002 }, 'iron')).toEqual([
    '0 - - iron open -',
    '0 - 2 lime r3 true',
    '1 1001 - iron open -',
  ])
})

test('beside a material on IDs what lies on all of the part goes over it elsewhere', () => {
  expect(told({ part: 0 }, 'lime')).toEqual(['0 - 0 iron r3 false', '1 1001 - iron r3 -', '1 1002 - iron r3 -'])
})

test('a material that is only looked at on a part has all of it', () => {
  expect(told({ part: 0 }, 'moss')).toEqual(['1 1001 - iron r3 -', '1 1002 - iron r3 -'])
  expect(told({ part: 2 }, 'lime')[1]).toBe('0 - 2 lime open true')
})
