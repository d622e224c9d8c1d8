import { expect, test } from '@playwright/test'
import sharp from 'sharp'
import { MapsPage } from './support/maps-page'
import { newProject } from './support/new-project'

test('projects: new, rename, duplicate, delete and bring back', async ({ page }) => {
  await newProject(page, 'Tide gate')
  await page.getByRole('navigation').getByRole('link', { name: 'Projects' }).click()
  await page.getByRole('button', { name: 'Rename Tide gate' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Tide gate, north')
  await page.getByRole('button', { name: 'Rename', exact: true }).click()
  await page.getByRole('button', { name: 'Duplicate Tide gate, north' }).click()
  await expect(page.getByRole('link', { name: 'Tide gate, north, copy', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Delete Tide gate, north, copy' }).click()
  await expect(page.getByRole('link', { name: 'Tide gate, north, copy', exact: true })).toBeHidden()
  await page.getByRole('button', { name: 'Bring it back' }).click()
  await expect(page.getByRole('link', { name: 'Tide gate, north, copy', exact: true })).toBeVisible()
})

test('jobs: a large bake shows its progress and time left, is cancelled, and can be tried again', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('link', { name: 'Lantern Sluice', exact: true }).click()
  await page.getByRole('link', { name: 'Maps of Quay setts' }).click()
  const maps = new MapsPage(page)
  await maps.size(1024)
  // 1024² of colour with opacity, occlusion-rough-metal, normal and emission, each 4 bytes a texel and a third for mips.
  await expect(page.getByRole('status', { name: 'What it takes' })).toContainText(
    '4 files of 1024 × 1024. In an engine, with mips: 22.4 MB',
  )
  await maps.size(2048)
  await maps.make()
  await page.getByRole('link', { name: 'Jobs' }).click()
  const busy = page.getByRole('region', { name: 'Under way' })
  // The demo's own jobs may be under way beside it.
  const own = busy.getByRole('listitem').filter({ hasText: '2048 wide' })
  await expect(own).toContainText(/% ?, .* left/, { timeout: 90_000 })
  await busy.getByRole('button', { name: 'Cancel Quay setts' }).click()
  const past = page.getByRole('region', { name: 'Past' })
  const first = past.getByRole('listitem').filter({ hasText: '2048 wide' })
  await expect(first).toContainText('cancelled')
  await first.getByRole('button', { name: 'Log' }).click()
  await expect(first).toContainText('attempt 1')
  await first.getByRole('button', { name: 'Try Quay setts again' }).click()
  await busy.getByRole('button', { name: 'Cancel Quay setts' }).click()
  await expect(first).toContainText('cancelled')
})

test('images: imported with a thumbnail; a damaged one is refused in words', async ({ page }) => {
  await newProject(page, 'Pictures')
  const png = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#b4690e' } })
    .png()
    .toBuffer()
  await page.getByLabel('Image files').setInputFiles([
    { name: 'plate.png', mimeType: 'image/png', buffer: png },
    { name: 'broken.png', mimeType: 'image/png', buffer: png.subarray(0, 60) },
  ])
  await expect(page.getByRole('region', { name: 'Images' }).getByText('plate.png')).toBeVisible()
  await expect(page.getByText('40 × 30, 8 bits')).toBeVisible()
  const link = page.getByRole('link', { name: 'plate.png' })
  expect(await (await page.request.get((await link.getAttribute('href'))!)).body()).toEqual(png)
  await expect(page.getByRole('alert')).toContainText('broken.png')
  const shelf = page.getByRole('region', { name: 'Images' })
  await shelf.getByRole('button', { name: 'Rename plate.png' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Lock plate')
  await page.keyboard.press('Enter')
  await expect(shelf.getByText('Lock plate')).toBeVisible()
  await shelf.getByRole('button', { name: 'Delete Lock plate' }).click()
  await expect(shelf.getByText('40 × 30')).toHaveCount(0)
  await shelf.getByRole('button', { name: 'Bring it back' }).click()
  await expect(shelf.getByText('40 × 30')).toBeVisible()
  // One picture makes a layered material.
  await shelf.getByRole('button', { name: 'Material from Lock plate' }).click()
  await expect(page).toHaveTitle('Lock plate · Amber Grist')
  await expect(page.getByRole('grid', { name: /Layers by channels/ })).toContainText('Worn edges')
  await page.goBack()
  // Its cut-out makes strand cards.
  await shelf.getByRole('button', { name: 'Strand cards from Lock plate' }).click()
  const sheet = page.getByRole('grid', { name: /Layers by channels/ })
  await expect(sheet.getByRole('columnheader', { name: /^Root/ })).toBeVisible()
  await expect(sheet).toContainText('Strands')
})

test('requests from elsewhere, and addresses that are no ids, are refused', async ({ page, request, baseURL }) => {
  const elsewhere = await request.post('/', {
    form: { intent: 'create', name: 'x' },
    headers: { 'Sec-Fetch-Site': 'cross-site', Origin: 'https://elsewhere.example' },
  })
  expect(elsewhere.status()).toBe(403)
  for (const path of [
    '/projects/..%2f..%2fetc',
    '/documents/1',
    '/deliveries/x/maps.zip',
    `/projects/${crypto.randomUUID()}`,
  ])
    expect((await request.get(path)).status()).toBe(404)
  const response = await page.goto('/')
  const policy = response!.headers()['content-security-policy']!
  expect(policy).toContain("script-src 'self' 'nonce-")
  expect(policy).not.toContain("'unsafe-inline' 'unsafe-eval'")
  // A script that somebody smuggled in does not run.
  await page.evaluate(() => {
    const script = document.createElement('script')
    script.textContent = 'window.smuggled = true'
    document.body.append(script)
  })
  expect(await page.evaluate(() => 'smuggled' in window)).toBe(false)
  expect(baseURL).toContain('127.0.0.1')
})
