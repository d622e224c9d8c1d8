import { expect, test } from '@playwright/test'
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { barriers } from './support/barriers'
import { newProject } from './support/new-project'

const SIDE = 32
let folder: string
test.beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'sets-'))
  const write = async (name: string, texel: (x: number) => number[]): Promise<void> => {
    const texels = Array.from({ length: SIDE * SIDE }, (_, i) => texel(i % SIDE))
    const channels = texels[0]!.length as 3 | 4
    mkdirSync(join(folder, name, '..'), { recursive: true })
    await sharp(Uint8Array.from(texels.flat()), { raw: { width: SIDE, height: SIDE, channels } })
      .png()
      .toFile(join(folder, name))
  }
  await write('crate/crate_diffuse.png', (x) => (x < 16 ? [200, 120, 60] : [0, 0, 0]))
  await write('crate/crate_specular.png', (x) => (x < 16 ? [56, 56, 56, 102] : [230, 180, 90, 204]))
  await write('wall/one.png', (x) => [x * 8, 250 - x * 7, x % 2 ? 40 : 200])
})
test.afterAll(() => rmSync(folder, { recursive: true }))

test('a folder of sets is recognised, corrected, converted together, and opened as a material', async ({ page }) => {
  await newProject(page, 'Old maps')
  await page.getByRole('link', { name: 'Convert maps' }).click()
  await expect(page.getByRole('heading', { name: 'Convert existing maps' })).toBeVisible()
  await page.getByLabel('Folder of sets of maps').setInputFiles(folder)
  const sets = page.getByRole('list', { name: 'Sets of maps' })
  await expect(sets.getByRole('button')).toHaveCount(2)
  await sets.getByRole('button', { name: /^crate/ }).click()
  const row = (name: string) => page.getByRole('row', { name: new RegExp(name) })
  await expect(page.getByRole('combobox', { name: 'R, G and B of crate_diffuse.png' })).toHaveValue('colour')
  await expect(row('crate_specular')).toContainText('occlusion-rough-metal GB')
  // One that was not recognised is said by hand; it is kept.
  await sets.getByRole('button', { name: /^wall/ }).click()
  await expect(row('one.png')).toContainText('guessed from its texels')
  await page.getByRole('combobox', { name: 'R, G and B of one.png' }).selectOption({ label: 'One grey each' })
  await page.getByRole('combobox', { name: 'G of one.png', exact: true }).selectOption({ label: 'Gloss' })
  await expect(row('one.png')).toContainText('occlusion-rough-metal G')
  await page
    .getByRole('combobox', { name: 'R of one.png', exact: true })
    .selectOption({ label: 'R, G and B together …' })
  await page.getByRole('combobox', { name: 'R, G and B of one.png' }).selectOption({ label: 'Emission' })
  await expect(row('one.png')).toContainText('set by hand')
  // Reloaded at once: what was said is on its way, and arrives without its page.
  await expect(async () => {
    await page.reload()
    await sets.getByRole('button', { name: /^wall/ }).click()
    await expect(page.getByRole('combobox', { name: 'R, G and B of one.png' })).toHaveValue('emission', {
      timeout: 2000,
    })
  }).toPass()

  await page.getByRole('button', { name: 'Convert all 2 sets' }).click()
  await expect(sets.getByRole('button', { name: /(●|▲)/ })).toHaveCount(2)
  await sets.getByRole('button', { name: /^crate/ }).click()
  const made = page.getByRole('list', { name: 'Files that were made' })
  await expect(made.getByRole('listitem')).toHaveCount(2)
  await expect(made.getByRole('img').or(made.locator('img')).first()).toHaveJSProperty('complete', true)
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Download' }).click()
  expect((await download).suggestedFilename()).toContain('crate')
  expect(await barriers(page)).toEqual([])
  await page.getByRole('button', { name: 'Use the soot theme' }).click()
  expect(await barriers(page, 'colours')).toEqual([])
  // What is said anew makes the result stale.
  await page.getByRole('combobox', { name: 'A of crate_specular.png' }).selectOption({ label: 'Not used' })
  await expect(page.getByText('The set was changed since')).toBeVisible()

  await page.getByRole('button', { name: 'Delete crate' }).click()
  await expect(sets.getByRole('button')).toHaveCount(1)
  await page
    .getByRole('button', { name: /Undo|Bring/ })
    .first()
    .click()
  await expect(sets.getByRole('button')).toHaveCount(2)
  // In place of the file of the other set, by its name.
  await sets.getByRole('button', { name: /^wall/ }).click()
  const whole = page.getByRole('combobox', { name: 'R, G and B of one.png' })
  await whole.selectOption({ label: 'Base colour' })
  await expect(row('one.png')).toContainText('colour RGB')
  await sets.getByRole('button', { name: /^crate/ }).click()
  await page.getByRole('combobox', { name: 'Packing' }).selectOption({ label: 'wall' })
  await expect(row('crate_diffuse')).toContainText('one.png')
  await page.getByRole('button', { name: 'Make them' }).click()
  await expect(page.getByRole('heading', { name: 'In place of wall' })).toBeVisible({ timeout: 30_000 })
  await expect(made.getByRole('listitem')).toHaveText([/^one/])
  await page.getByRole('button', { name: 'Open as material' }).click()
  await expect(page.getByRole('grid', { name: /Layers by channels/ })).toContainText('crate')
})
