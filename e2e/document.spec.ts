import type { Page } from '@playwright/test'
import { expect, test } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { MapsPage } from './support/maps-page'
import { MaterialPage } from './support/material-page'

test.setTimeout(180_000)

const joint = (page: Page) => page.getByRole('spinbutton', { name: 'Joint width' })
const valueOf = (page: Page) => joint(page).getAttribute('aria-valuenow')
const status = (page: Page) => page.getByRole('status', { name: 'Saved' })

/** The dials of the material that is open. */
async function dials(page: Page): Promise<void> {
  await page.getByRole('tab', { name: 'Dials' }).click()
  await expect(joint(page)).toBeVisible()
}

/** A copy of Quay setts of one's own, its dials in sight. */
async function ownSetts(page: Page): Promise<MaterialPage> {
  const material = new MaterialPage(page)
  await material.openDemo('Quay setts')
  await dials(page)
  return material
}

/** A small material with one dial: saving does not depend on what is drawn. */
async function ownDial(page: Page, name: string): Promise<MaterialPage> {
  const material = new MaterialPage(page)
  const drives = [{ layer: 'base', channel: 'roughness', field: 'value', scale: 1, offset: 0 }]
  const dial = {
    id: 'joint',
    label: 'Joint width',
    kind: 'number',
    min: 0,
    max: 0.04,
    default: 0.01,
    value: 0.01,
    drives,
  }
  await material.openEmpty(name, { dials: [dial] })
  await dials(page)
  return material
}

async function turn(page: Page, steps: number): Promise<void> {
  await joint(page).focus()
  for (let i = 0; i < Math.abs(steps); i++) await page.keyboard.press(steps > 0 ? 'ArrowUp' : 'ArrowDown')
}

test('a page that is not isolated says so, and shows pictures all the same', async ({ page }) => {
  await page.route(/\/documents\//, async (route) => {
    if (route.request().resourceType() !== 'document') return route.fallback()
    const response = await route.fetch()
    const headers = Object.fromEntries(
      Object.entries(response.headers()).filter(([name]) => !/^cross-origin-(opener|embedder)-policy$/.test(name)),
    )
    await route.fulfill({ response, headers })
  })
  const material = await ownSetts(page)
  // The page that led here was isolated.
  await page.reload()
  await material.awake()
  await dials(page)
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(false)
  await expect(page.getByText('one core only: this address is not HTTPS')).toBeVisible()
  const first = await material.picture()
  await turn(page, 3)
  await material.sharp()
  expect(first.data).not.toEqual((await material.picture()).data)
  // Packing has a worker of its own, with which memory cannot be shared here.
  const maps = new MapsPage(page)
  await maps.open()
  await expect(maps.findings.getByRole('listitem').filter({ hasText: 'Metal is 0 or 1' })).toContainText(
    '% of the texels',
  )
})

test('a dial changes the picture, saves itself, and is undone after a reload', async ({ page }) => {
  const problems: string[] = []
  page.on('pageerror', (error) => problems.push(error.message))
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()))
  const material = await ownSetts(page)
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true)
  // The pane's last row is shared with what lies below it, by how its height rounds.
  const shown = async (): Promise<Uint8Array> => {
    const { data, width, height } = await material.picture()
    return data.subarray(0, width * (height - 2) * 3)
  }
  const apart = (a: Uint8Array, b: Uint8Array): number => a.filter((v, i) => Math.abs(v - b[i]!) > 3).length / a.length
  const first = await shown()
  const before = await valueOf(page)
  await turn(page, 3)
  await material.sharp()
  expect(apart(await shown(), first)).toBeGreaterThan(0.003)
  // Only what follows the dial was evaluated.
  await expect(page.getByText(/\d+ steps? evaluated, [1-9]\d* kept/)).toBeVisible()
  await material.saved()
  const turned = await valueOf(page)
  expect(turned).not.toBe(before)
  await page.reload()
  await material.awake()
  await dials(page)
  expect(await valueOf(page)).toBe(turned)
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo Joint width' }).click()
  expect(await valueOf(page)).toBe(before)
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled()
  await material.saved()
  await material.sharp()
  expect(apart(await shown(), first)).toBeLessThan(0.001)
  await page.keyboard.press('Control+Shift+z')
  await expect.poll(() => valueOf(page)).not.toBe(before)
  await material.saved()
  expect(problems).toEqual([])
})

test('two tabs see each other’s edits; on the same part at once the user chooses', async ({ page, context }) => {
  const material = await ownDial(page, 'Two tabs')
  const other = await context.newPage()
  await other.goto(page.url())
  await new MaterialPage(other).awake()
  await dials(other)
  await turn(page, 2)
  await material.saved()
  await expect(joint(other)).toHaveAttribute('aria-valuenow', (await valueOf(page))!)
  // The other tab goes offline, both change the same dial.
  await other.route('**/edits*', (route) => route.abort())
  await turn(other, 5)
  await expect(status(other)).toContainText('cannot reach the server: 5 edits kept here')
  const mine = await valueOf(other)
  await turn(page, -1)
  await material.saved()
  await other.unroute('**/edits*')
  await expect(other.getByRole('alert')).toContainText('Another tab changed 1 place that you changed too')
  await other.getByRole('button', { name: 'Keep mine: Dial Joint width: value' }).click()
  await expect(status(other)).toContainText('● saved')
  await expect(joint(page)).toHaveAttribute('aria-valuenow', mine!)
})

test('with the server away edits are kept over a closed tab and sent later', async ({ page, context }) => {
  await ownDial(page, 'Server away')
  const address = page.url()
  await context.route('**/edits*', (route) => route.abort())
  await turn(page, 4)
  await expect(status(page)).toContainText('cannot reach the server: 4 edits kept here, sent when it is back')
  const kept = await valueOf(page)
  await page.close()
  await context.unroute('**/edits*')
  const again = await context.newPage()
  await again.goto(address)
  await dials(again)
  await expect(joint(again)).toHaveAttribute('aria-valuenow', kept!)
  await expect(status(again)).toContainText('● saved')
})

test('an unknown address says so and leads back', async ({ page }) => {
  const response = await page.goto('/nothing-here')
  expect(response!.status()).toBe(404)
  await page.getByRole('link').click()
  await expect(page).toHaveTitle('Projects · Amber Grist')
})

test('an edit that the server does not take is shown after three tries, with ways on', async ({ page }) => {
  const material = await ownDial(page, 'Refused')
  let sent = 0
  await page.route('**/edits*', async (route) => {
    if (route.request().method() !== 'POST') return route.continue()
    sent++
    await route.fulfill({ status: 500, contentType: 'application/json', body: '{"error":"the disk is upside down"}' })
  })
  await turn(page, 1)
  const notice = page.getByRole('alert')
  await expect(notice).toContainText('1 edit could not be saved: the disk is upside down')
  await page.waitForTimeout(2500)
  expect(sent).toBe(3)
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    notice.getByRole('button', { name: 'Export' }).click(),
  ])
  const saved = JSON.parse(readFileSync(await download.path(), 'utf8')) as { edits: unknown[]; material: object }
  expect([saved.edits.length, Object.hasOwn(saved.material, 'layers')]).toEqual([1, true])
  const turned = await valueOf(page)
  await page.unroute('**/edits*')
  await notice.getByRole('button', { name: 'Try again' }).click()
  await material.saved()
  expect(await valueOf(page)).toBe(turned)
  // And given up, where it is never taken.
  await page.route('**/edits*', (route) => route.fulfill({ status: 422, json: { error: 'no' } }))
  await turn(page, 2)
  await expect(notice).toContainText('could not be saved: no')
  await notice.getByRole('button', { name: 'Drop' }).click()
  await expect(notice).toBeHidden()
  expect(await valueOf(page)).toBe(turned)
})
