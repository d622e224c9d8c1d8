import { CHANNELS } from '../document/channels'
import { cosTurns, sinTurns } from '../elementary'
import type { Field } from '../field/field'
import { meshOf } from '../mesh/testing/bake-here'
import { partLayoutOf } from '../mesh/part-layout'
import type { PartLayout } from '../mesh/part-layout'
import { fieldOf } from '../testing/fields'
import { runChecks } from './check'
import { checks } from './rules/rules.generated'

const SIZE = 64

/** An open cylinder of 16 sides, 1 m high, in one strip from left to right: its seam is smooth. `u` is where the strip ends. */
const cylinder = (name: string, right = 0.875, move = 0): string => {
  const lines = [`o ${name}`]
  for (let i = 0; i <= 16; i++)
    for (const up of [0, 1]) lines.push(`v ${sinTurns((i / 16) % 1) + move} ${up} ${cosTurns((i / 16) % 1)}`)
  for (let i = 0; i <= 16; i++)
    for (const up of [0, 1]) lines.push(`vt ${0.125 + ((right - 0.125) * i) / 16} ${0.125 + 0.75 * up}`)
  return lines.join('\n')
}
const faces = (first: number): string =>
  Array.from({ length: 16 }, (_, i) => {
    const at = first + 2 * i
    return `f ${at}/${at} ${at + 2}/${at + 2} ${at + 3}/${at + 3} ${at + 1}/${at + 1}`
  }).join('\n')

const one = partLayoutOf(meshOf(`${cylinder('Drum')}\n${faces(1)}`), 0, 0)

const roughness = CHANNELS.find(({ id }) => id === 'roughness')!
const found = (layout: PartLayout, field: Field, more: { missed?: number; width?: number } = {}) => {
  const { missed, width = SIZE } = more
  const part = { layout, ...(missed === undefined ? {} : { missed }) }
  const channels = [{ channel: roughness, field, steps: 0 }]
  return runChecks(checks, { width, height: width, channels, files: [], over: 'part', part }).filter(({ rule }) =>
    rule.startsWith('part-'),
  )
}
const flat = fieldOf('grey', SIZE, SIZE, () => 0.5)
/** From a foot of the strip to its other end, as a share of the way around. */
const along = (x: number): number => (x / SIZE - 0.125) / 0.75

test('a layout knows which edges are smooth, inside and over its seam', () => {
  expect(one.seams).toHaveLength(12)
  // 15 edges between its sides, and a diagonal in each.
  expect(one.inner).toHaveLength(12 * 31)
  const [u0, , u1, , u2, , w0] = one.seams
  // The seam lies on both borders of the strip, its ends at the same height.
  expect([u0, u1, u2, w0].map((u) => Math.round(u! * 1000) / 1000).sort()).toEqual([
    0.125,
    0.125,
    expect.any(Number),
    0.875,
  ])
  expect([one.seams[1], one.seams[3]]).toEqual([one.seams[7], one.seams[9]])
})

test('a ramp that does not meet itself around a cylinder steps over its seam; one that does, and a wave, do not', () => {
  const ramp = fieldOf('grey', SIZE, SIZE, (x) => along(x + 0.5))
  const [step] = found(one, ramp)
  expect(step).toMatchObject({ rule: 'part-seams', channel: 'roughness', severity: 'warning' })
  expect(step!.message).toMatch(/steps by 0\.9\d+ over seams/)
  expect(step!.marks!.every(([u]) => Math.abs(u - 0.125) < 0.03 || Math.abs(u - 0.875) < 0.03)).toBe(true)
  expect(
    found(
      one,
      fieldOf('grey', SIZE, SIZE, (x) => 0.5 + 0.4 * sinTurns(((along(x + 0.5) % 1) + 1) % 1)),
    ),
  ).toEqual([])
  expect(
    found(
      one,
      fieldOf('grey', SIZE, SIZE, (_, y) => y / SIZE),
    ),
  ).toEqual([])
})

test('a seam at a hard edge may step', () => {
  // Two upright squares that meet at a right angle, each an island.
  const hard = meshOf(`o L
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
v 1 0 1
v 1 1 1
vt 0.1 0.1
vt 0.4 0.1
vt 0.4 0.4
vt 0.1 0.4
vt 0.6 0.1
vt 0.9 0.1
vt 0.9 0.4
vt 0.6 0.4
f 1/1 2/2 3/3 4/4
f 2/5 5/6 6/7 3/8
`)
  expect(
    found(
      partLayoutOf(hard, 0, 0),
      fieldOf('grey', SIZE, SIZE, (x) => (x < SIZE / 2 ? 0 : 1)),
    ),
  ).toEqual([])
})

test('islands too near for the mips, triangles over each other, and parts of other density are told', () => {
  // Two cylinders, of which the second lies in a sixth of the tile's width.
  const both = meshOf(`${cylinder('Drum')}\n${faces(1)}\n${cylinder('Pipe', 0.25, 5)}\n${faces(35)}`)
  const coarse = found(partLayoutOf(both, 1, 0), flat)
  expect(coarse.map(({ rule }) => rule)).toEqual(['part-density'])
  expect(coarse[0]!.message).toMatch(/2\.4 times as few/)
  const near = meshOf(`o Two
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
v 2 0 0
v 3 0 0
v 3 1 0
v 2 1 0
vt 0.1 0.1
vt 0.4 0.1
vt 0.4 0.4
vt 0.1 0.4
vt 0.40390625 0.1
vt 0.7 0.1
vt 0.7 0.4
vt 0.40390625 0.4
f 1/1 2/2 3/3 4/4
f 5/5 6/6 7/7 8/8
`)
  // 1/256 of the tile: 4 texels at 1024, where 8 are usual, and none at 256 but one.
  const [gap] = found(partLayoutOf(near, 0, 0), flat, { width: 1024 })
  expect(gap).toMatchObject({ rule: 'part-padding', message: expect.stringContaining('from mip 3 on') })
  expect(gap!.value).toBeCloseTo(4, 3)
  const over = meshOf(`o Two
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
v 2 0 0
v 3 0 0
v 3 1 0
v 2 1 0
vt 0.1 0.1
vt 0.5 0.1
vt 0.5 0.5
vt 0.1 0.5
f 1/1 2/2 3/3 4/4
f 5/1 6/2 7/3 8/4
`)
  expect(found(partLayoutOf(over, 0, 0), flat).map(({ rule, severity }) => `${severity} ${rule}`)).toEqual([
    'error part-overlaps',
  ])
})

test('missed rays are told from 0.05 % of the tile on; without a high mesh nothing is', () => {
  expect(found(one, flat, { missed: 0.0004 })).toEqual([])
  expect(found(one, flat, { missed: 0.01 })[0]).toMatchObject({
    rule: 'part-missed-rays',
    message: expect.stringContaining('1.00 %'),
  })
  expect(found(one, flat)).toEqual([])
})
