import type { Page } from '@playwright/test'
import { expect, test } from '@playwright/test'

const stage = (page: Page) => page.getByRole('img', { name: 'Quay setts, base colour, one tile seen flat' })
const sharp = (page: Page) => expect(stage(page)).toHaveAttribute('data-sharp', 'true')

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

test('the demo material is evaluated in isolated workers and shown; its dial changes it and comes back', async ({
  page,
}) => {
  const problems: string[] = []
  page.on('pageerror', (error) => problems.push(error.message))
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()))
  await page.goto('/')
  await expect(page).toHaveTitle('Quay setts · Amber Grist')
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true)
  await sharp(page)
  const first = await pixels(page)
  expect(first.width).toBe(1024)
  // Stone: neither black nor white, nor one grey everywhere.
  for (const v of first.mean) {
    expect(v).toBeGreaterThan(30)
    expect(v).toBeLessThan(200)
  }

  const dial = page.getByRole('slider', { name: /joint/i })
  const before = await dial.getAttribute('aria-valuenow')
  await dial.focus()
  for (let i = 0; i < 25; i++) await page.keyboard.press('ArrowRight')
  await sharp(page)
  const changed = await pixels(page)
  expect(changed.sum).not.toBe(first.sum)
  // Only what follows the dial was evaluated.
  await expect(page.getByRole('status')).toContainText(/[1-9]\d* steps evaluated, [1-9]\d* kept/)

  for (let i = 0; i < 25; i++) await page.keyboard.press('ArrowLeft')
  expect(await dial.getAttribute('aria-valuenow')).toBe(before)
  await sharp(page)
  expect((await pixels(page)).sum).toBe(first.sum)
  expect(problems).toEqual([])
})

test('both themes, kept over a reload; the picture stays on neutral grey', async ({ page }) => {
  await page.goto('/')
  const ground = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor)
  const around = () => stage(page).evaluate((canvas) => getComputedStyle(canvas.parentElement!).backgroundColor)
  await page.getByRole('button', { name: /theme/ }).click()
  const one = await ground()
  await page.reload()
  expect(await ground()).toBe(one)
  const grey = /rgb\((\d+), (\d+), (\d+)\)/.exec(await around())!
  expect(new Set(grey.slice(1)).size).toBe(1)
  await page.getByRole('button', { name: /theme/ }).click()
  expect(await ground()).not.toBe(one)
})

test('an address that is not there says so and leads back', async ({ page }) => {
  const response = await page.goto('/nothing-here')
  expect(response!.status()).toBe(404)
  await page.getByRole('link').click()
  await expect(page).toHaveTitle('Quay setts · Amber Grist')
})
