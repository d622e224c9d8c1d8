import type { Page } from '@playwright/test'
import { expect, test } from '@playwright/test'

const stage = (page: Page) => page.getByRole('img', { name: 'Quay setts, base colour, one tile seen flat' })
const sharp = (page: Page) => expect(stage(page)).toHaveAttribute('data-sharp', 'true')
const saved = (page: Page) => expect(page.getByRole('status')).toContainText('● saved')
const joint = (page: Page) => page.getByRole('slider', { name: 'Joint width' })
const valueOf = (page: Page) => joint(page).getAttribute('aria-valuenow')

/** Mean of each colour channel over the canvas, and a sum that tells pictures apart. */
const pixels = (page: Page) =>
  stage(page).evaluate((canvas: HTMLCanvasElement) => {
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
    const mean = [0, 0, 0]
    let sum = 0
    for (let i = 0; i < data.length; i++) {
      sum = (Math.imul(sum, 31) + data[i]!) | 0
      if (i % 4 < 3) mean[i % 4]! += data[i]! / (data.length / 4)
    }
    return { mean, sum, width: canvas.width }
  })

/** A copy of Quay setts of one's own, open. */
async function ownSetts(page: Page): Promise<void> {
  await page.goto('/')
  await page.getByRole('button', { name: 'Duplicate Lantern Sluice', exact: true }).click()
  await page.getByRole('link', { name: 'Lantern Sluice, copy', exact: true }).first().click()
  await page.getByRole('link', { name: 'Quay setts', exact: true }).click()
  await expect(page).toHaveTitle('Quay setts · Amber Grist')
  await awake(page)
}

/** The page answers once its first picture is there. */
const awake = (page: Page) => expect(stage(page)).toBeVisible()

async function turn(page: Page, steps: number): Promise<void> {
  await joint(page).focus()
  for (let i = 0; i < Math.abs(steps); i++) await page.keyboard.press(steps > 0 ? 'ArrowRight' : 'ArrowLeft')
}

test('a dial changes the picture, saves itself, and is undone after a reload', async ({ page }) => {
  const problems: string[] = []
  page.on('pageerror', (error) => problems.push(error.message))
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()))
  await ownSetts(page)
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true)
  await sharp(page)
  const first = await pixels(page)
  const before = await valueOf(page)
  expect(first.width).toBe(1024)
  // Stone: neither black nor white.
  for (const v of first.mean) {
    expect(v).toBeGreaterThan(30)
    expect(v).toBeLessThan(200)
  }
  await turn(page, 3)
  await sharp(page)
  expect((await pixels(page)).sum).not.toBe(first.sum)
  // Only what follows the dial was evaluated.
  await expect(page.getByText(/[1-9]\d* steps evaluated, [1-9]\d* kept/)).toBeVisible()
  await saved(page)
  const turned = await valueOf(page)
  await page.reload()
  await awake(page)
  expect(await valueOf(page)).toBe(turned)
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo Joint width' }).click()
  expect(await valueOf(page)).toBe(before)
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled()
  await saved(page)
  await sharp(page)
  expect((await pixels(page)).sum).toBe(first.sum)
  await page.reload()
  await awake(page)
  expect(await valueOf(page)).toBe(before)
  await page.keyboard.press('Control+Shift+z')
  await expect(page.getByRole('status')).toContainText('● saved')
  expect(await valueOf(page)).not.toBe(before)
  expect(problems).toEqual([])
})

test('a drag is one edit', async ({ page }) => {
  await ownSetts(page)
  await saved(page)
  const revision = async () => Number(/revision (\d+)/.exec((await page.getByRole('status').textContent())!)![1])
  const before = await revision()
  const box = (await joint(page).boundingBox())!
  await page.mouse.move(box.x + 3, box.y + 8)
  await page.mouse.down()
  for (const dx of [5, 10, 15, 20]) await page.mouse.move(box.x + 3 + dx, box.y + 8)
  await page.mouse.up()
  await saved(page)
  expect(await revision()).toBe(before + 1)
})

test('two tabs see each other’s edits; on the same part at once the user chooses', async ({ page, context }) => {
  await ownSetts(page)
  const other = await context.newPage()
  await other.goto(page.url())
  await awake(other)
  await turn(page, 2)
  await saved(page)
  await expect(joint(other)).toHaveAttribute('aria-valuenow', (await valueOf(page))!)
  // The other tab goes offline, both change the same dial.
  await other.route('**/edits*', (route) => route.abort())
  await turn(other, 5)
  await expect(other.getByRole('status')).toContainText('the server is not there: 5 edits kept here')
  const mine = await valueOf(other)
  await turn(page, -1)
  await saved(page)
  await other.unroute('**/edits*')
  await expect(other.getByRole('alert')).toContainText('Another tab changed the same part')
  await other.getByRole('button', { name: 'Keep mine on top' }).click()
  await saved(other)
  await expect(joint(page)).toHaveAttribute('aria-valuenow', mine!)
})

test('with the server away edits are kept over a closed tab and sent later', async ({ page, context }) => {
  await ownSetts(page)
  const address = page.url()
  await context.route('**/edits*', (route) => route.abort())
  await turn(page, 4)
  await expect(page.getByRole('status')).toContainText(
    'the server is not there: 4 edits kept here, sent when it is back',
  )
  const kept = await valueOf(page)
  await page.close()
  await context.unroute('**/edits*')
  const again = await context.newPage()
  await again.goto(address)
  await expect(joint(again)).toHaveAttribute('aria-valuenow', kept!)
  await saved(again)
  await again.reload()
  expect(await valueOf(again)).toBe(kept)
})

test('both themes, kept over a reload; the picture stays on neutral grey', async ({ page }) => {
  await ownSetts(page)
  const ground = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor)
  const around = () => stage(page).evaluate((canvas) => getComputedStyle(canvas.parentElement!).backgroundColor)
  await page.getByRole('button', { name: /theme/ }).click()
  const one = await ground()
  await page.reload()
  expect(await ground()).toBe(one)
  const grey = /rgb\((\d+), (\d+), (\d+)\)/.exec(await around())!
  expect(new Set(grey.slice(1))).toEqual(new Set(['119']))
  await page.getByRole('button', { name: /theme/ }).click()
  expect(await ground()).not.toBe(one)
})

test('an address that is not there says so and leads back', async ({ page }) => {
  const response = await page.goto('/nothing-here')
  expect(response!.status()).toBe(404)
  await page.getByRole('link').click()
  await expect(page).toHaveTitle('Projects · Amber Grist')
})
