import { expect, test } from '@playwright/test'
import { MapsPage } from './support/maps-page'
import { MaterialPage } from './support/material-page'

const members = {
  nodes: { noise: { type: 'noise', params: { cells: [2, 2], octaves: 1 } } },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      cells: { colour: { source: { value: '#804020' } }, roughness: { source: { value: 0.25 } } },
    },
    {
      kind: 'layer',
      id: 'wear',
      name: 'Wear',
      mask: [{ source: { node: 'noise.grey' }, mode: 'multiply', amount: 1, invert: false }],
      amount: 1,
      cells: { colour: { source: { value: '#ffffff' } } },
    },
  ],
  dials: [
    {
      id: 'bright',
      label: 'Brightness',
      min: 0,
      max: 1,
      default: 1,
      value: 1,
      drives: [{ layer: 'wear', field: 'amount', scale: 1, offset: 0 }],
    },
  ],
  presets: { bare: { name: 'Bare', values: { bright: 0 } } },
}

test('a value of the project is followed by a setting, and changed for all that follow it', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Shared', members)
  const address = page.url()
  await page
    .getByRole('navigation', { name: 'Where you are' })
    .getByRole('link', { name: 'Shared', exact: true })
    .click()
  const values = page.getByRole('region', { name: 'Shared values' })
  await values.getByRole('textbox', { name: 'Name of a new value' }).fill('House lime')
  await values.getByRole('button', { name: 'Colour' }).click()
  await expect(values.getByRole('listitem', { name: 'House lime' })).toContainText('nothing follows it')

  await page.goto(address)
  await material.awake()
  await material.select('base', 'colour')
  await material.settings.getByRole('button', { name: /^Colour: make a dial/ }).click()
  await page.getByRole('menuitem', { name: /^Follow “House lime”/ }).click()
  await material.saved()
  await page.getByRole('tab', { name: 'Dials' }).click()
  await expect(page.getByRole('region', { name: 'Dials' })).toContainText('of the project: change it there')

  await page.getByRole('link', { name: /of the project/ }).click()
  const row = values.getByRole('listitem', { name: 'House lime' })
  await expect(row).toContainText('1 material follows it')
  await row.getByRole('textbox').fill('#2040c0')
  await row.getByRole('textbox').press('Enter')
  await expect(row.getByRole('textbox')).toHaveValue('#2040c0')
  await page.goto(address)
  await material.awake()
  await page.getByRole('tab', { name: 'Dials' }).click()
  await expect(page.getByRole('region', { name: 'Dials' })).toContainText('#2040c0')
  const [red, , blue] = await material.mean(0.5, 0.5, 0.1)
  expect(blue).toBeGreaterThan(red)
})

test('materials have tags, are searched, and several are made at once', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Several', members)
  await page
    .getByRole('navigation', { name: 'Where you are' })
    .getByRole('link', { name: 'Several', exact: true })
    .click()
  await page.getByRole('button', { name: 'Duplicate Material 1' }).click()
  const list = page.getByRole('list', { name: 'Materials', exact: true })
  await expect(list.getByRole('listitem')).toHaveCount(2)
  await page.getByRole('button', { name: 'Tags of Material 1: none' }).click()
  await page.getByRole('textbox', { name: 'Tags' }).fill('plaster, dry')
  await page.getByRole('button', { name: 'Keep the tags' }).click()
  await page.getByRole('button', { name: 'plaster', exact: true }).click()
  await expect(list.getByRole('listitem')).toHaveCount(1)
  await page.getByRole('button', { name: 'plaster', exact: true }).click()
  await page.getByRole('searchbox', { name: 'Search materials' }).fill('no such')
  await expect(page.getByText('No material is found by that.')).toBeVisible()
  await page.getByRole('searchbox', { name: 'Search materials' }).fill('')

  await page.getByRole('button', { name: 'Make maps', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: /several materials/ })
  await dialog.getByRole('combobox', { name: 'Size' }).selectOption('512 wide')
  await dialog.getByRole('button', { name: 'Make 2 sets of maps' }).click()
  await expect(page.getByRole('region', { name: 'Deliveries' }).getByRole('row')).toHaveCount(3, { timeout: 90_000 })
})

test('a delivery with settings of its own and its variations; made again, only what changed; a window at its size', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Own', members)
  const maps = new MapsPage(page)
  await maps.open()
  await page.getByRole('tab', { name: 'Make' }).click()
  await page.getByRole('radio', { name: '256', exact: true }).click()
  await page.getByRole('button', { name: 'Make 4 files at 256' }).last().click()
  const rows = maps.deliveries.getByRole('row')
  await expect(rows).toHaveCount(2, { timeout: 90_000 })
  await expect(rows.nth(1)).not.toContainText('kept')

  await page.getByText('Only in what is made').click()
  await page.getByRole('checkbox', { name: 'Wear is on' }).uncheck()
  await material.sharp()
  expect((await material.mean(0.5, 0.5, 0.05))[2]).toBeLessThan(90)
  await page.getByRole('button', { name: 'Make 4 files at 256' }).last().click()
  await expect(rows).toHaveCount(3, { timeout: 90_000 })
  // Its colour alone is another.
  await expect(rows.nth(1)).toContainText('3 kept')
  await page.getByRole('button', { name: 'As in the material' }).click()
  await page.getByRole('button', { name: 'Make 1 variation' }).click()
  await expect(rows).toHaveCount(4, { timeout: 90_000 })

  await page.getByRole('button', { name: 'Look at it at 256' }).click()
  const look = page.getByRole('dialog', { name: 'As it will be at 256' })
  await expect(look.getByText('● as delivered')).toBeVisible({ timeout: 30_000 })
  const place = look.getByRole('application')
  await place.focus()
  await page.keyboard.press('ArrowRight')
  await expect(look.getByRole('application', { name: /from 32 across/ })).toBeVisible()
  await expect(look.getByText('● as delivered')).toBeVisible({ timeout: 30_000 })
  await look.getByRole('button', { name: 'Close' }).click()
})

test('any two states side by side, values within a mask, and where the repeat shows', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Looks', members)
  await material.select('base', 'roughness')
  await material.type('Value', '0.5')
  await material.saved()
  await material.type('Value', '0.75')
  await material.saved()
  await material.settings.getByRole('combobox', { name: 'Values within' }).selectOption('within Wear')
  await expect(material.settings.getByText(/of [\d.]+ % of the tile/)).toBeVisible()
  await expect(material.settings.getByText(/± /).first()).toBeVisible()

  await page.getByRole('tab', { name: 'States' }).click()
  const states = page.getByRole('region', { name: 'States' })
  await states.getByRole('button', { name: 'Compare with Revision 1' }).click()
  await states.getByRole('combobox', { name: 'Right of the seam' }).selectOption('Revision 2')
  const stage = page.getByRole('region', { name: 'Stage' })
  await expect(stage.getByText('Revision 1', { exact: true })).toBeVisible()
  await expect(stage.getByText('Revision 2', { exact: true })).toBeVisible()
  // The values under the pointer are those of each half.
  const probe = async (across: number): Promise<string> => {
    const box = (await material.stage.boundingBox())!
    await page.mouse.move(box.x + box.width * across, box.y + box.height / 2)
    await page.waitForTimeout(300)
    return (await page.locator('[data-probe]').textContent())!
  }
  await expect.poll(() => probe(0.45)).toMatch(/rough .25/)
  await expect.poll(() => probe(0.55)).toMatch(/rough .5/)
  await stage.getByRole('button', { name: 'End the comparison' }).click()
  await expect.poll(() => probe(0.55)).toMatch(/rough .75/)

  await material.flat()
  await page.getByRole('combobox', { name: 'Tiles along a side' }).selectOption('3 × 3')
  await stage.getByRole('button', { name: 'Where the repeat shows' }).click()
  await expect(stage.getByRole('list', { name: 'Marks' }).getByRole('listitem')).toHaveCount(9)
  await expect(stage.getByText(/deviations off its surroundings/)).toBeVisible()
})
