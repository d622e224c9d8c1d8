import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

const members = {
  nodes: {
    lay: { type: 'bond', params: { bond: 'stack', columns: 4, aspect: 1, gap: 0.05, rounding: 0 } },
    bend: {
      type: 'curve',
      params: {
        points: [
          { at: 0, to: 0 },
          { at: 1, to: 1 },
        ],
      },
      inputs: { source: 'lay.mask' },
    },
  },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      amount: 1,
      mask: [],
      cells: { height: { source: { node: 'bend.result' }, blend: 'normal', amount: 1, encoding: 'srgb' } },
    },
  ],
}

test('a bond says what it comes to and asks only what matters; a curve is bent by mouse and by keys', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Laid and bent', members)
  await material.select('base', 'height')
  const { settings, nodes: pane } = material

  await pane.getByText('Bond', { exact: true }).click()
  const says = settings.getByRole('status', { name: 'Resulting values' })
  await expect(says).toContainText('Laid as 4 × 4: 16 units, each about 250 mm square in area.')
  await expect(settings.getByRole('spinbutton', { name: 'Slant' })).toBeHidden()
  await settings.getByLabel('Bond', { exact: true }).selectOption('chevron')
  await material.type('Columns', '7')
  await expect(says).toContainText('Laid as 8 × 8: 64 units')
  await expect(settings.getByRole('spinbutton', { name: 'Slant' })).toBeVisible()
  await settings.getByLabel('Bond', { exact: true }).selectOption('stack')
  await material.type('Columns', '4')

  // Nine tenths of the middle of a unit is unit: white in, white out, until the curve's end is drawn down.
  await material.flat()
  await material.show('height')
  await material.sharp()
  expect((await material.pixel(0.5, 0.5))[0]).toBeLessThan(20)
  const unit = async () => (await material.mean(0.578, 0.62, 0.01))[0]
  expect(await unit()).toBeGreaterThan(245)
  await pane.getByText('Curve', { exact: true }).click()
  const end = settings.getByRole('slider', { name: 'Point 2 of 2' })
  // Half of the square's height.
  const square = settings.getByTitle(/Press to add a point/)
  await square.scrollIntoViewIfNeeded()
  const half = (await square.boundingBox())!.height / 2
  const box = (await end.boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 + half, { steps: 6 })
  await page.mouse.up()
  await expect(end).toHaveAttribute('aria-valuenow', /^0\.(4[5-9]|5[0-5]?)/)
  await material.sharp()
  expect(Math.abs((await unit()) - 128)).toBeLessThan(20)
  await end.focus()
  await page.keyboard.press('Shift+ArrowUp')
  await expect(end).toHaveAttribute('aria-valuenow', /^0\.(5[5-9]|6[0-5]?)/)

  await settings.getByRole('button', { name: 'Add a point' }).click()
  await expect(settings.getByRole('slider')).toHaveCount(3)
  await page.keyboard.press('Control+z')
  await expect(settings.getByRole('slider')).toHaveCount(2)
  await material.saved()
})
