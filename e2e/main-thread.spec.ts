import { expect, test } from '@playwright/test'
import { takeLongTasks, watchLongTasks } from './support/long-tasks'
import { MaterialPage } from './support/material-page'

/**
 * The page's own share of the main thread: this browser has no WebGL, so nothing waits for software that draws. Long tasks are
 * those over 50 ms (W3C Long Tasks).
 */
test.use({
  launchOptions: {
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-3d-apis', '--no-first-run', '--disable-background-networking'],
  },
})

/** Milliseconds that a fixed loop takes: 50 on a machine where nothing else runs, more where others take their share. */
const loop = (): number => {
  const from = performance.now()
  let x = 1
  for (let i = 0; i < 6e6; i++) x = Math.imul(x ^ (x >>> 15), 0x2c1b3c6d) + i
  return x === 0 ? 0 : performance.now() - from
}
const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!

test('edits and drags of a dial leave the main thread free, and are shown without WebGL', async ({ page }) => {
  await watchLongTasks(page)
  const material = new MaterialPage(page)
  await material.openDemo('Quay setts', { drawn: false })
  await expect(page.getByRole('alert').filter({ hasText: 'no WebGL 2' })).toBeVisible()
  await page.getByRole('tab', { name: 'Dials' }).click()
  const dial = page.getByRole('spinbutton', { name: 'Algae' })
  const swatch = page.locator('img[data-output="colour"]').first()
  const longest: number[] = []
  const loops: number[] = []
  await takeLongTasks(page)
  for (let i = 0; i < 9; i++) {
    const before = Number(await swatch.getAttribute('data-changes'))
    // A value never seen before.
    await dial.fill(String(Math.round(1000 * ((0.1 + i * 0.618) % 1)) / 1000))
    await dial.press('Enter')
    await expect.poll(async () => Number(await swatch.getAttribute('data-changes'))).toBeGreaterThan(before)
    await expect(material.stage).toHaveAttribute('data-sharp', 'true')
    longest.push(Math.max(0, ...(await takeLongTasks(page)).map(({ duration }) => duration)))
    loops.push(await page.evaluate(loop))
  }
  // No more than the loop, of which a seventh is left to chance: most edits have no long task at all. Long tasks are told in whole milliseconds.
  expect(median(longest)).toBeLessThanOrEqual(Math.max(50, Math.ceil(median(loops) * 1.15)))
})
