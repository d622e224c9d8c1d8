import { twinParts } from '#core/mesh/bake-part'
import { layoutFactsAt, layoutProblems } from '#core/mesh/layout-facts'
import { meshSummary } from '#core/mesh/mesh-summary'
import { volumeOf } from '#core/mesh/testing/shapes'
import { uvAtlases } from '#runtime/node/uv-atlas'
import { demoModels } from './make/meshes'
import { depthBoard } from './make/meshes/depth-board'

const models = await demoModels(await uvAtlases())
const problemsOf = (name: string): [string, string][] =>
  meshSummary(models.find((model) => model.name === name)!.low).parts.flatMap((part) =>
    layoutProblems(layoutFactsAt(part.layouts[0]!, 1024), 1024).map(({ kind }): [string, string] => [part.name, kind]),
  )

const twins = models.flatMap(({ name, low, high }) => (high ? [{ name, low, high }] : []))
test.each(twins)('$name: faces outward, its high twin is finer and holds nearly the same', ({ name, low, high }) => {
  const [small, large] = [volumeOf(low), volumeOf(high)]
  expect(small).toBeGreaterThan(0)
  // A cloth is open: what its folds enclose with the origin says nothing.
  if (name !== 'Tarpaulin') expect(Math.abs(large / small - 1)).toBeLessThan(0.06)
  expect(high.triangles.length).toBeGreaterThan(low.triangles.length * 20)
  // Each part has a twin of its name.
  for (const part of low.parts) expect(twinParts(high.parts, part)).toHaveLength(1)
})

test('the wheel has the two faults that there are to cure, cards of sedge lie over one another, the others have none', () => {
  expect(problemsOf('Hand wheel')).toEqual([
    ['Spindle', 'spacing'],
    ['Bolts', 'overlaps'],
  ])
  expect(problemsOf('Sedge bank')).toEqual([['Cards', 'overlaps']])
  for (const { name } of models.slice(1))
    if (name !== 'Sedge bank') expect([name, problemsOf(name)]).toEqual([name, []])
})

test('they are the same each time they are made', () => {
  expect(depthBoard(true)).toEqual(models[2]!.high)
})
