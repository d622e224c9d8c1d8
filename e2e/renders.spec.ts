import type { Page } from '@playwright/test'
import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

test.setTimeout(180_000)

/** The parts of React's fibers that are looked at; React tells whoever stands in its developer tools' place of each commit. */
interface Fiber {
  readonly tag: number
  readonly flags: number
  readonly type: unknown
  readonly alternate: Fiber | null
  readonly child: Fiber | null
  readonly sibling: Fiber | null
  readonly stateNode: { dataset?: DOMStringMap } | null
}
interface Counting extends Window {
  renders: Record<string, number> | null
  commits: number
  __REACT_DEVTOOLS_GLOBAL_HOOK__: unknown
}

/** Counts, from outside, which components are rendered: by the pane they stand in, rows and cards by their own names. */
async function countRenders(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const counting = window as unknown as Counting
    counting.renders = null
    counting.commits = 0
    const PERFORMED_WORK = 1
    const HOST = 5
    const count = (fiber: Fiber, place: string): void => {
      const { guide, node } = (fiber.tag === HOST && fiber.stateNode?.dataset) || {}
      const here = node ? `node ${node}` : guide && !['add', 'dials', 'add-node'].includes(guide) ? guide : place
      if (typeof fiber.type !== 'string' && fiber.type !== null && fiber.alternate && fiber.flags & PERFORMED_WORK)
        counting.renders![here] = (counting.renders![here] ?? 0) + 1
      // Where the children are the very same, nothing below was looked at.
      if (fiber.alternate && fiber.child === fiber.alternate.child) return
      for (let child = fiber.child; child; child = child.sibling) count(child, here)
    }
    counting.__REACT_DEVTOOLS_GLOBAL_HOOK__ = {
      supportsFiber: true,
      renderers: new Map(),
      inject: () => 1,
      onCommitFiberUnmount: () => {},
      onPostCommitFiberRoot: () => {},
      onCommitFiberRoot: (_: number, root: { current: Fiber }) => {
        if (!counting.renders) return
        counting.commits++
        count(root.current, 'page')
      },
    }
  })
}

test('a turning dial renders itself and what it drives, whatever else is on screen', async ({ page }) => {
  const material = new MaterialPage(page)
  await countRenders(page)
  const layer = (id: string, node: string) => ({
    kind: 'layer',
    id,
    name: id,
    amount: 1,
    mask: [{ source: { node }, mode: 'multiply', amount: 1, invert: false }],
    cells: { colour: { source: { value: '#806040' } }, roughness: { source: { value: 0.5 } } },
  })
  const dial = (id: string, label: string, node: string) => ({
    id,
    label,
    min: 0,
    max: 1,
    default: 0.5,
    value: 0.5,
    drives: [{ node, field: 'level' }],
  })
  await material.openEmpty('Renders', {
    nodes: {
      noise: { type: 'noise', at: [0, 0] },
      first: { type: 'threshold', at: [220, 0], inputs: { source: 'noise.grey' } },
      second: { type: 'threshold', at: [220, 130], inputs: { source: 'noise.grey' } },
    },
    layers: [layer('driven', 'first.result'), ...'abcdefgh'.split('').map((id) => layer(id, 'second.result'))],
    dials: [dial('one', 'One', 'first'), ...'23456789'.split('').map((id) => dial(`d${id}`, `Other ${id}`, 'second'))],
  })
  await page.getByRole('button', { name: 'Whole graph' }).click()
  await page.getByRole('tab', { name: 'Dials' }).click()
  await material.sharp()
  const box = (await material.settings.getByRole('spinbutton', { name: 'One', exact: true }).boundingBox())!
  await page.mouse.move(box.x + 30, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + 40, box.y + box.height / 2, { steps: 2 })
  await page.evaluate(() => ((window as unknown as Counting).renders = {}))
  const STEPS = 12
  for (let step = 1; step <= STEPS; step++) await page.mouse.move(box.x + 40 + 2 * step, box.y + box.height / 2)
  const { renders, commits } = await page.evaluate(() => {
    const { renders, commits } = window as unknown as Counting
    ;(window as unknown as Counting).renders = null
    return { renders: renders!, commits }
  })
  await page.mouse.up()
  // The card of the node it drives, and no other card.
  expect(renders['node first']).toBeGreaterThan(0)
  expect(Object.keys(renders).filter((place) => place.startsWith('node ') && place !== 'node first')).toEqual([])
  // Of 9 layers with 12 swatches and buttons each, the one whose mask it drives, and results where pictures arrive.
  expect((renders.layers ?? 0) / commits).toBeLessThan(4)
  expect(renders.selection! / commits).toBeLessThan(50)
  expect(Object.values(renders).reduce((sum, count) => sum + count, 0) / commits).toBeLessThan(100)
})
