import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

const members = {
  nodes: { noise: { type: 'noise', params: { cells: [2, 2], octaves: 1 } } },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      cells: { colour: { source: { value: '#6080a0' } }, roughness: { source: { node: 'noise.grey' } } },
    },
    { kind: 'correction', id: 'tone', name: 'Tone', cells: {} },
  ],
}

test('a correction is a list of operations on what lies below, in the list and in the graph', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Corrections', members)
  const { settings, nodes: pane } = material
  await material.flat()
  await material.show('colour')
  await material.sharp()
  expect(await material.pixel(0.5, 0.5)).toEqual([0x60, 0x80, 0xa0])
  await material.select('tone', 'colour')
  const add = async (word: RegExp) => {
    await settings.getByRole('button', { name: 'Operation', exact: true }).click()
    await page.getByRole('menuitem', { name: word }).click()
  }
  await add(/^Invert/)
  await material.sharp()
  const inverted = await material.pixel(0.5, 0.5)
  expect(inverted).not.toEqual([0x60, 0x80, 0xa0])
  await material.select('tone', 'colour')
  await add(/^Hue/)
  await material.type('Saturation', '0')
  await material.sharp()
  const [r, g, b] = await material.pixel(0.5, 0.5)
  expect(Math.max(r!, g!, b!) - Math.min(r!, g!, b!)).toBeLessThan(3)

  // In the graph: from what lies below, by both, to the cell.
  await expect(pane.getByText('Below', { exact: true })).toBeVisible()
  await expect(pane.getByRole('img', { name: 'Below, base colour' })).toBeVisible()
  await expect(pane.locator('.react-flow__edge')).toHaveCount(3)

  // In the list: order, switch, amount, deleting; each undone.
  await material.cell('tone', 'colour').click()
  const list = settings.getByRole('list', { name: 'Operations, in order' }).getByRole('listitem')
  await expect(list).toHaveText([/1.*Invert/, /2.*Adjust colour/])
  await settings.getByRole('button', { name: 'Move Adjust colour' }).press('Alt+ArrowUp')
  await expect(list).toHaveText([/1.*Adjust colour/, /2.*Invert/])
  const [from, to] = [list.nth(1), list.nth(0)].map((row) => row.getByRole('button', { name: /^Move/ }))
  const [a, b2] = [(await from!.boundingBox())!, (await to!.boundingBox())!]
  await page.mouse.move(a.x + 6, a.y + 12)
  await page.mouse.down()
  await page.mouse.move(a.x + 6, a.y - 2, { steps: 4 })
  await page.mouse.move(b2.x + 6, b2.y + 8, { steps: 8 })
  await page.mouse.up()
  await expect(list).toHaveText([/1.*Invert/, /2.*Adjust colour/])
  await material.type('Effect of Adjust colour', '0')
  await material.sharp()
  expect(await material.pixel(0.5, 0.5)).toEqual(inverted)
  // A dial takes the effect over.
  await list.nth(1).getByTitle('Open its settings').click()
  await settings.getByRole('button', { name: 'Effect: make a dial' }).click()
  await page.getByRole('menuitem', { name: 'Make a dial', exact: true }).click()
  await expect(settings.getByRole('button', { name: 'Effect: driven by the dial Effect' })).toBeVisible()
  await material.cell('tone', 'colour').click()
  await settings.getByRole('button', { name: 'Switch Invert off' }).click()
  await material.sharp()
  expect(await material.pixel(0.5, 0.5)).toEqual([0x60, 0x80, 0xa0])
  await settings.getByRole('button', { name: 'Delete Invert' }).click()
  await expect(list).toHaveText([/1.*Adjust colour/])
  await page.keyboard.press('Control+z')
  await expect(list).toHaveCount(2)
  await material.saved()
})

test('a half-built node takes no picture away, and says what it lacks', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Half built', members)
  const { nodes: pane, stage } = material
  await material.flat()
  await material.show('roughness')
  await material.sharp()
  const before = await material.mean(0.5, 0.5, 0.3)
  await material.select('base', 'height')
  await page.keyboard.press('n')
  await page.getByPlaceholder(/Find a node/).fill('threshold')
  await page.keyboard.press('Enter')
  const card = pane.locator('[data-node=threshold]')
  await expect(card).toContainText('■ Source is not connected')
  await material.sharp()
  expect(await material.mean(0.5, 0.5, 0.3)).toEqual(before)
  await expect(page.getByText(/Height is shown without what is not finished: Threshold: Source is/)).toBeVisible()
  // Once nothing reads it, it may wait: nobody is told.
  await material.select('base', 'height')
  await page.keyboard.press('Delete')
  await expect(page.getByRole('region', { name: 'Stage' })).not.toContainText('not finished')
  await expect(card).not.toContainText('■ Source')
  await expect(stage).toHaveAttribute('data-sharp', 'true')
})

test('what is chosen is copied and pasted by keys, into another material too; a copy is independent', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  const material = new MaterialPage(page)
  await material.openEmpty('Copies', members)
  const { settings } = material
  await material.select('base', 'layer')
  await page.keyboard.press('Control+d')
  await expect(material.cell('base-2', 'layer')).toContainText('Base, copy')
  await material.select('base-2', 'roughness')
  expect(await settings.getByRole('combobox', { name: 'Source' }).inputValue()).toBe('node:noise-2.grey')
  await material.select('base', 'layer')
  await page.keyboard.press('Control+Shift+D')
  await expect(material.cell('base-3', 'layer')).toContainText('Base, linked')
  await expect(settings).toContainText('Shares 1 node with Base')
  await settings.getByRole('button', { name: 'Own nodes' }).click()
  await expect(settings).not.toContainText('Shares')
  await material.select('base-3', 'layer')
  await page.keyboard.press('Control+x')
  await expect(material.cell('base-3', 'layer')).toHaveCount(0)
  await material.saved()
  await material.openEmpty('Elsewhere', { layers: [] })
  await material.sheet.getByRole('columnheader').nth(1).focus()
  await page.keyboard.press('Control+v')
  await expect(material.cell('base', 'layer').or(material.cell('base-3', 'layer')).first()).toContainText(
    'Base, linked',
  )
  await expect(material.sheet.getByRole('row')).toHaveCount(2)
})
