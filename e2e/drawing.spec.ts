import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

const members = {
  nodes: { plate: { type: 'image', version: 2 } },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      cells: { colour: { source: { node: 'plate.colour' } } },
    },
  ],
}

test('letters and shapes are drawn as an image, and stay editable; an SVG file becomes a drawing too', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Plate', members)
  await material.nodes.locator('[data-node=plate]').click()
  const field = material.settings.getByRole('button', { name: /^Image: (?!make a dial)/ })
  await field.click()
  await page.getByRole('button', { name: 'Draw one' }).click()
  const editor = page.getByRole('dialog', { name: 'Drawing' })
  await editor.getByRole('button', { name: 'Rectangle' }).click()
  await editor.getByRole('spinbutton', { name: 'Width of it' }).fill('1024')
  await editor.getByRole('spinbutton', { name: 'Width of it' }).press('Enter')
  await editor.getByRole('spinbutton', { name: 'Height of it' }).fill('512')
  await editor.getByRole('spinbutton', { name: 'Height of it' }).press('Enter')
  const fill = editor.getByRole('textbox', { name: /^Colour of it/ })
  await fill.fill('#c03020')
  await fill.press('Enter')
  // To the upper left corner, by keys.
  const area = editor.getByRole('application')
  await area.focus()
  for (let i = 0; i < 26; i++) await page.keyboard.press('Shift+ArrowLeft')
  for (let i = 0; i < 13; i++) await page.keyboard.press('Shift+ArrowUp')
  await editor.getByRole('button', { name: 'Use the drawing' }).click()
  await expect(editor).toBeHidden()
  await expect(field).not.toHaveAccessibleName(/none chosen/)
  await material.flat()
  await material.sharp()
  const [red, green] = await material.mean(0.5, 0.5, 0.1)
  expect(red).toBeGreaterThan(green + 60)

  await field.click()
  await page.getByRole('button', { name: 'Edit as a drawing' }).click()
  await expect(editor.getByRole('list', { name: /Things/ }).getByRole('button')).toHaveText(['rectangle', '“7”'])
  await editor.getByRole('button', { name: 'rectangle', exact: true }).click()
  await fill.fill('#2040c0')
  await fill.press('Enter')
  await editor.getByRole('button', { name: 'Use the drawing' }).click()
  await expect(editor).toBeHidden()
  await material.sharp()
  await expect.poll(async () => (await material.mean(0.5, 0.5, 0.1))[2]).toBeGreaterThan(120)

  const svg =
    '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40"><rect width="40" height="40" fill="#20c040"/></svg>'
  await field.click()
  await page
    .getByLabel('Image: file')
    .setInputFiles({ name: 'green.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) })
  await expect(field).toHaveAccessibleName('Image: green.png')
  await material.sharp()
  await expect.poll(async () => (await material.mean(0.5, 0.5, 0.1))[1]).toBeGreaterThan(120)
})
