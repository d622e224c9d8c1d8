import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

const members = {
  nodes: { noise: { type: 'noise', params: { cells: [2, 2], octaves: 1 } } },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      cells: { colour: { source: { value: '#808080' } }, height: { source: { node: 'noise.grey' } } },
    },
    { kind: 'layer', id: 'wear', name: 'Wear', cells: { roughness: { source: { value: 0.25 } } } },
  ],
  dials: [
    {
      id: 'soft',
      label: 'Softness',
      min: 0,
      max: 1,
      default: 0.25,
      value: 0.25,
      drives: [{ layer: 'wear', channel: 'roughness', field: 'value', scale: 1, offset: 0 }],
    },
  ],
}

test('a ready mask, its result named in one press and read elsewhere with a tone of its own; the mask over the surface', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Masks', members)
  const { settings } = material
  await material.select('wear', 'mask')
  await settings.getByRole('button', { name: 'Ready-made' }).click()
  await page.getByRole('menuitem', { name: /^Height range/ }).click()
  await expect(settings.getByRole('list', { name: /Mask entries/ }).getByRole('listitem')).toHaveCount(1)
  await expect(material.nodes.getByText('Below', { exact: true })).toBeVisible()
  await settings.getByRole('button', { name: 'Duplicate entry 1' }).click()
  await expect(settings.getByRole('list', { name: /Mask entries/ }).getByRole('listitem')).toHaveCount(2)
  await settings.getByRole('button', { name: 'Delete entry 2' }).click()

  await material.cell('wear', 'mask').focus()
  await page.keyboard.press('t')
  await expect(page.getByRole('status', { name: 'Notice' })).toContainText('“Wear, mask” can be picked')
  await material.select('base', 'metallic')
  await settings.getByRole('button', { name: '“Wear, mask”' }).click()
  await settings.getByRole('button', { name: 'Own tone' }).click()
  await expect(material.nodes.locator('[data-node^=levels]').last()).toBeVisible()
  // Its own layer's mask cannot read it: that would be a circle.
  await material.select('wear', 'mask')
  await settings.getByRole('combobox', { name: 'Source' }).selectOption({ label: '“Wear, mask”' })
  await expect(page.getByRole('status', { name: 'Notice' })).toContainText('in a circle')

  // Where nothing is chosen the named results are listed, with where they are read.
  await page.getByRole('button', { name: /Find or do/ }).click()
  await page.keyboard.type('settings of the whole')
  await page.keyboard.press('Enter')
  const named = settings.getByRole('region', { name: 'Named results' })
  await named.getByRole('button', { name: 'Wear, mask', exact: true }).click()
  await named.getByRole('textbox').fill('High places')
  await page.keyboard.press('Enter')
  await expect(named).toContainText('High places')
  await expect(named.getByRole('button', { name: /Levels/ })).toBeVisible()

  // Held, the mask lies over the surface in a loud colour.
  await material.select('wear', 'mask')
  await material.sharp()
  const loud = async () => {
    const { data } = await material.picture()
    let count = 0
    for (let i = 0; i < data.length; i += 3) if (data[i]! > 150 && data[i + 1]! < 90 && data[i + 2]! > 150) count++
    return count
  }
  expect(await loud()).toBe(0)
  await page.keyboard.down('m')
  await material.sharp()
  await expect.poll(loud).toBeGreaterThan(500)
  await page.keyboard.up('m')
  await expect.poll(loud).toBe(0)
  await page.getByRole('button', { name: 'Mask over the surface' }).click()
  await expect.poll(loud).toBeGreaterThan(500)
  await material.saved()
})

test('dials: kept as a preset, at random within their range, brought back, nine side by side', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Presets', members)
  const { settings } = material
  await page.getByRole('tab', { name: 'Dials' }).click()
  const value = async () => Number(await settings.getByRole('spinbutton', { name: 'Softness' }).inputValue())
  await settings.getByRole('button', { name: 'Keep as preset' }).click()
  await page.getByRole('dialog').getByRole('textbox', { name: 'Name' }).fill('Calm')
  await page.keyboard.press('Enter')
  await expect(settings.getByRole('combobox', { name: 'Preset of all dials' })).toHaveValue('calm')
  // What is drawn may be what stands there already.
  await expect(async () => {
    await settings.getByRole('button', { name: 'At random' }).click()
    await expect.poll(value, { timeout: 5000 }).not.toBe(0.25)
  }).toPass()
  expect(await value()).toBeLessThanOrEqual(1)
  await settings.getByRole('combobox', { name: 'Preset of all dials' }).selectOption({ label: 'Calm' })
  await expect.poll(value).toBe(0.25)
  await settings.getByRole('button', { name: 'Variations' }).click()
  const dialog = page.getByRole('dialog', { name: 'Variations' })
  await expect(dialog.getByRole('radio')).toHaveCount(9)
  await dialog.getByRole('button', { name: 'Keep variation 3 as a preset' }).click()
  await dialog.getByRole('radio', { name: 'Variation 4', exact: true }).click()
  await dialog.getByRole('button', { name: 'Take it' }).click()
  await expect.poll(value).not.toBe(0.25)
  await expect(settings.getByRole('combobox', { name: 'Preset of all dials' })).toContainText('Variation 2')
  await page.keyboard.press('Control+z')
  await expect.poll(value).toBe(0.25)
})

test('the sheet shows what was chosen of it; a note stays with its layer', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Columns', members)
  const heads = material.sheet.getByRole('columnheader')
  await expect(heads).toHaveCount(9)
  await page.getByRole('button', { name: 'Rows and columns' }).click()
  const options = page.getByRole('dialog', { name: 'Rows and columns' })
  await options.getByRole('checkbox', { name: 'Only channels that a layer writes' }).check()
  await expect(heads).toHaveCount(4)
  await options.getByRole('checkbox', { name: 'Height' }).uncheck()
  await expect(heads).toHaveCount(3)
  await options.getByRole('button', { name: 'Move Roughness' }).press('Alt+ArrowUp')
  await options.getByRole('button', { name: 'Move Roughness' }).press('Alt+ArrowUp')
  await expect(heads.nth(1)).toHaveAttribute('aria-label', /^Roughness/)
  await options.getByRole('radio', { name: 'large' }).click()
  await page.keyboard.press('Escape')
  const tall = (await page.locator('[data-layer=base]').boundingBox())!.height
  expect(tall).toBeGreaterThan(55)
  await page.reload()
  await material.awake()
  await expect(heads).toHaveCount(3)
  await material.select('wear', 'layer')
  await material.settings.getByRole('button', { name: 'Add a note' }).click()
  await page.keyboard.type('Asked for by the lighting team')
  await material.cell('base', 'layer').click()
  await expect(material.cell('wear', 'layer').getByTitle('Asked for by the lighting team')).toBeVisible()
  await material.saved()
})

test('a new project begins with a material that ships, and opens it', async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('amber-grist-guided', 'yes'))
  await page.goto('/')
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Begun')
  await page.getByRole('radio', { name: /^Cork/ }).click()
  await page.getByRole('button', { name: 'Make it' }).click()
  await page.waitForURL(/\/documents\//)
  await expect(page).toHaveTitle('Cork · Amber Grist')
  const material = new MaterialPage(page)
  await material.awake()
  expect(await material.rows()).toEqual(['pores', 'joints', 'dark', 'cork'])
})

test('a material with its picture is exported as a file and imported into another project', async ({ page }, info) => {
  const material = new MaterialPage(page)
  await material.openInDemo('Depth board enamel')
  await page
    .getByRole('navigation', { name: 'Where you are' })
    .getByRole('link', { name: 'Lantern Sluice, copy' })
    .click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Export Depth board enamel' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('Depth board enamel.zip')
  const file = info.outputPath('taken.zip')
  await download.saveAs(file)
  await material.openEmpty('Elsewhere')
  await page
    .getByRole('navigation', { name: 'Where you are' })
    .getByRole('link', { name: 'Elsewhere', exact: true })
    .click()
  // Images of other projects are there when they are asked for.
  const images = page.getByRole('region', { name: 'Images' })
  await expect(images.getByRole('listitem')).toHaveCount(0)
  await images.getByRole('checkbox', { name: 'Of all projects' }).check()
  await expect(images.getByRole('listitem')).not.toHaveCount(0)
  await images.getByRole('checkbox', { name: 'Of all projects' }).uncheck()
  await page.getByLabel('File of materials').setInputFiles(file)
  await expect(page.getByRole('status').filter({ hasText: '1 material came in' })).toBeVisible()
  await page
    .getByRole('list', { name: 'Materials' })
    .getByRole('link', { name: 'Depth board enamel', exact: true })
    .click()
  await material.awake()
  expect((await material.rows()).length).toBeGreaterThan(5)
  await expect(page.getByRole('region', { name: 'Stage' })).not.toContainText('not finished')
})
