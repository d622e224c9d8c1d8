import type { Page } from '@playwright/test'
import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

/** Files that the page draws itself, as a drag would bring them. */
const drawn = (page: Page, files: readonly { name: string; fill: string; disc?: boolean }[]) =>
  page.evaluateHandle(async (wanted) => {
    const data = new DataTransfer()
    for (const { name, fill, disc } of wanted) {
      const canvas = new OffscreenCanvas(64, 64)
      const context = canvas.getContext('2d')!
      context.fillStyle = fill
      if (disc) {
        context.arc(32, 32, 28, 0, 7)
        context.fill()
      } else context.fillRect(0, 0, 64, 64)
      data.items.add(new File([await canvas.convertToBlob()], name, { type: 'image/png' }))
    }
    return data
  }, files)

const white = {
  layers: [{ kind: 'layer', id: 'base', name: 'Base', cells: { colour: { source: { value: '#ffffff' } } } }],
}

test('a picture with transparency becomes a decal without a fringe, and is placed by handles and keys', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Decals', white)
  await material.flat()
  await material.show('colour')
  await material.sharp()
  const box = (await material.stage.boundingBox())!
  const dataTransfer = await drawn(page, [{ name: 'seal.png', fill: '#ffffff', disc: true }])
  await material.stage.dispatchEvent('drop', {
    dataTransfer,
    clientX: box.x + box.width / 2,
    clientY: box.y + box.height / 2,
  })
  await expect(material.cell('seal', 'colour')).toHaveAttribute('aria-label', /amount/)
  await material.sharp()
  // What is hidden under alpha is black; white on white stays white all over, at the soft edge too.
  await material.select('base', 'colour')
  await material.sharp()
  expect(await material.mean(0.5, 0.5, 0.5)).toEqual([255, 255, 255])
  await material.select('seal', 'mask')
  await material.nodes.getByText('Stencil', { exact: true }).click()
  const handles = page.getByRole('group', { name: /^Decal Stencil/ })
  const centre = () =>
    Promise.all(
      ['Centre across', 'Centre down'].map((name) => material.settings.getByRole('spinbutton', { name }).inputValue()),
    )
  const [x, y] = await centre()
  expect(Math.abs(Number(x) - 0.5) + Math.abs(Number(y) - 0.5)).toBeLessThan(0.02)
  // Dragged to the right by a tenth of the tile, and turned and scaled by its handles.
  const body = (await handles.locator('polygon').last().boundingBox())!
  const middle = [body.x + body.width / 2, body.y + body.height / 2] as const
  await page.mouse.move(...middle)
  await page.mouse.down()
  await page.mouse.move(middle[0] + body.width / 4, middle[1], { steps: 6 })
  await page.mouse.up()
  await expect.poll(async () => Number((await centre())[0])).toBeCloseTo(Number(x) + 0.1, 2)
  const corner = (await handles.locator('[data-corner="2"]').boundingBox())!
  await page.mouse.move(corner.x + 5, corner.y + 5)
  await page.mouse.down()
  await page.mouse.move(corner.x + 5 + body.width / 4, corner.y + 5 + body.height / 4, { steps: 6 })
  await page.mouse.up()
  const size = material.settings.getByRole('spinbutton', { name: 'Size' })
  await expect.poll(async () => Number(await size.inputValue())).toBeCloseTo(0.6, 1)
  await handles.focus()
  await page.keyboard.press(']')
  await expect(material.settings.getByRole('spinbutton', { name: 'Angle' })).toHaveValue(/0139/)
  await page.keyboard.press('ArrowDown')
  await expect.poll(async () => Number((await centre())[1])).toBeCloseTo(Number(y) + 0.005, 3)
  await page.keyboard.press('m')
  await expect(page.getByRole('button', { name: 'Mirror Stencil' })).toHaveAttribute('aria-pressed', 'true')
  // On the lit shape they are there too.
  await page.getByText('Shape', { exact: true }).click()
  await material.sharp()
  await expect(handles).toBeVisible()
  await material.saved()
})

test('several pictures dropped together are one layer by their names; one on a cell goes in as data', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Sets', white)
  const set = await drawn(page, [
    { name: 'bark_albedo.png', fill: '#806040' },
    { name: 'bark_roughness.png', fill: '#c0c0c0' },
    { name: 'bark_metal.png', fill: '#000000' },
  ])
  await material.stage.dispatchEvent('drop', { dataTransfer: set })
  for (const channel of ['colour', 'roughness', 'metallic'])
    await expect(material.cell('bark', channel)).toHaveAttribute('aria-label', /amount/)
  await material.flat()
  await material.show('roughness')
  await material.sharp()
  expect((await material.pixel(0.5, 0.5))[0]).toBe(0xc0)
  const one = await drawn(page, [{ name: 'grain.png', fill: '#404040' }])
  await material.cell('bark', 'height').dispatchEvent('drop', { dataTransfer: one })
  await expect(material.cell('bark', 'height')).toHaveAttribute('aria-label', /amount/)
  await material.show('height')
  await material.sharp()
  expect((await material.pixel(0.5, 0.5))[0]).toBe(0x40)
})

test('an image is replaced everywhere a material shows it, in one edit', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Plates', white)
  await material.sharp()
  const box = (await material.stage.boundingBox())!
  const drop = async (name: string, fill: string) => {
    const dataTransfer = await drawn(page, [{ name, fill, disc: true }])
    const middle = { clientX: box.x + box.width / 2, clientY: box.y + box.height / 2 }
    await material.stage.dispatchEvent('drop', { dataTransfer, ...middle })
  }
  const chosen = page.getByRole('button', { name: /^Image: .*png$/ })
  const stencil = async (layer: string) => {
    await material.select(layer, 'mask')
    await material.nodes
      .getByText(/^Stencil( 2)?$/)
      .first()
      .click()
  }
  await drop('seal.png', '#b00020')
  await expect(material.cell('seal', 'colour')).toHaveAttribute('aria-label', /amount/)
  await drop('seal.png', '#b00020')
  await expect(material.cell('seal-2', 'colour')).toHaveAttribute('aria-label', /amount/)
  await drop('mark.png', '#0040b0')
  await expect(material.cell('mark', 'colour')).toHaveAttribute('aria-label', /amount/)

  await stencil('seal')
  await chosen.click()
  await page.getByRole('checkbox', { name: 'Replace it in the other place too' }).check()
  await page.getByRole('button', { name: 'mark.png', exact: true }).click()
  for (const layer of ['seal', 'seal-2']) {
    await stencil(layer)
    await expect(chosen).toHaveAccessibleName('Image: mark.png')
  }
  await page.keyboard.press('Control+z')
  await expect(chosen).toHaveAccessibleName('Image: seal.png')
  await stencil('seal')
  await expect(chosen).toHaveAccessibleName('Image: seal.png')
})
