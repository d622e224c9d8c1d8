import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

test.setTimeout(180_000)
test.use({ permissions: ['clipboard-read', 'clipboard-write'] })

test('wires: drawn, converted with a word, refused with the reason, cut', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Wires', {
    nodes: {
      noise: { type: 'noise', at: [0, 0] },
      tint: { type: 'gradient-remap', at: [220, 0], inputs: { source: 'noise.grey' } },
      cells: { type: 'cells', at: [0, 130] },
      soft: { type: 'blur', at: [440, 140] },
      other: { type: 'gradient-remap', at: [220, 160] },
      slopes: { type: 'height-to-normal', at: [440, 0] },
    },
  })
  await page.getByRole('button', { name: 'Whole graph' }).click()
  const node = (id: string) => material.nodes.locator(`[data-node=${id}]`)
  const wire = async (from: ReturnType<typeof node>, to: ReturnType<typeof node>): Promise<void> => {
    await from.hover()
    await page.mouse.down()
    const box = (await to.boundingBox())!
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 8 })
    await page.mouse.up()
  }
  const notice = page.getByRole('status', { name: 'Notice' })
  // Colour into a port that takes only height converts by luminance, and says so on the wire.
  await wire(node('tint').getByLabel('Output result, colour'), node('slopes').getByLabel('Input height, grey'))
  await expect(material.nodes.getByText('colour → grey, by luminance')).toBeVisible()
  // A normal into the ramp's grey is refused with the reason; so is a circle, and a count.
  await wire(node('slopes').getByLabel('Output normal, normal'), node('other').getByLabel('Input source, grey'))
  await expect(notice).toContainText('carries normal and the port takes grey. Convert to colour')
  await wire(node('slopes').getByLabel('Output normal, normal'), node('slopes').getByLabel('Input height, grey'))
  await expect(notice).toContainText('close a circle')
  await wire(node('cells').getByLabel('Output id, ID'), node('slopes').getByLabel('Input height, grey'))
  await expect(notice).toContainText('IDs are names, not amounts')
  await wire(node('tint').getByLabel('Output result, colour'), node('soft').getByLabel(/Input source/))
  await expect(node('soft').getByLabel('Output result, colour')).toBeAttached()
  // A wire that ends on a card takes the input there that fits.
  await wire(node('noise').getByLabel('Output grey, grey'), node('other').getByText('Gradient remap'))
  await expect(material.nodes.getByLabel('Wire from noise.grey to other, source')).toBeAttached()
  // A port on the stage; its word turns amber.
  await node('cells').getByRole('button', { name: 'show border on the stage' }).click()
  await expect(material.stage).toHaveAttribute('data-shown', 'cells.border')
  // The ramp of the node: a stop moved by key and by drag, another one added by a press.
  await node('tint').getByText('Gradient remap').click()
  const stop = material.settings.getByRole('slider', { name: 'Stop 1 of 2' })
  await stop.press('ArrowRight')
  await expect(stop).toHaveAttribute('aria-valuenow', '0.01')
  const ramp = (await material.settings.getByTitle('Press to add a stop').boundingBox())!
  await page.mouse.move(ramp.x + ramp.width * 0.01, ramp.y + 22)
  await page.mouse.down()
  await page.mouse.move(ramp.x + ramp.width * 0.2, ramp.y + 22, { steps: 4 })
  await page.mouse.up()
  await expect(stop).toHaveAttribute('aria-valuenow', /0\.(19|2)/)
  await page.mouse.click(ramp.x + ramp.width * 0.6, ramp.y + 6)
  await expect(material.settings.getByRole('slider', { name: 'Stop 2 of 3' })).toHaveAttribute(
    'aria-valuenow',
    /0\.(59|6)/,
  )
  // Deleting the middle of a chain heals it.
  await node('tint').getByText('Gradient remap').click()
  await page.keyboard.press('Delete')
  await expect(node('tint')).toBeHidden()
  await expect(material.nodes.getByText('colour → grey, by luminance')).toBeHidden()
  await material.saved()
})

test('another place of the same layer takes over the card where wires end, with its wires', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Ends', {
    nodes: { noise: { type: 'noise', at: [0, 0] } },
    layers: [
      {
        kind: 'layer',
        id: 'base',
        name: 'Base',
        mask: [{ source: { node: 'noise.grey' } }],
        cells: { height: { source: { node: 'noise.grey' } }, roughness: { source: { node: 'noise.grey' } } },
      },
    ],
  })
  for (const [column, port] of [
    ['height', 'height'],
    ['mask', 'mask0'],
    ['roughness', 'roughness'],
  ] as const) {
    await material.select('base', column)
    const wires = material.nodes.locator('.react-flow__edge')
    await expect(wires).toHaveCount(1)
    await expect(wires).toHaveAccessibleName(new RegExp(`, ${port}$`))
    await expect(wires.locator('path').first()).toHaveAttribute('d', /^M/)
  }
})

test('nodes: renamed, duplicated, copied and pasted as text, tidied, dropped images', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Nodes', {
    nodes: {
      noise: { type: 'noise', at: [0, 0] },
      soft: { type: 'blur', at: [10, 10], inputs: { source: 'noise.grey' } },
    },
  })
  await page.getByRole('button', { name: 'Whole graph' }).click()
  const node = (id: string) => material.nodes.locator(`[data-node=${id}]`)
  await page.getByRole('button', { name: 'Tidy' }).click()
  const [a, b] = [(await node('noise').boundingBox())!, (await node('soft').boundingBox())!]
  expect(b.x).toBeGreaterThan(a.x + a.width)
  await node('soft').getByText('Blur').dblclick()
  await material.nodes.getByRole('textbox', { name: 'Name of the node' }).fill('Softened')
  await page.keyboard.press('Enter')
  await expect(node('soft')).toContainText('Softened')
  await node('soft').getByText('Softened').click()
  await page.keyboard.press('Control+d')
  await expect(node('soft-2')).toBeVisible()
  await page.keyboard.press('Control+c')
  await expect(page.getByRole('status', { name: 'Notice' })).toContainText('1 node copied as text')
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain('"format": "amber-grist/nodes"')
  await page.keyboard.press('Control+v')
  await expect(node('soft-3')).toBeVisible()
  // An image dropped on the stage becomes a layer, with a node that holds it.
  const transfer = await page.evaluateHandle(async () => {
    const canvas = new OffscreenCanvas(8, 8)
    const context = canvas.getContext('2d')!
    context.fillStyle = '#3366cc'
    context.fillRect(0, 0, 8, 8)
    const data = new DataTransfer()
    data.items.add(new File([await canvas.convertToBlob()], 'blue.png', { type: 'image/png' }))
    return data
  })
  await material.stage.dispatchEvent('drop', { dataTransfer: transfer })
  await expect(material.cell('blue', 'colour')).toHaveAttribute('aria-label', /amount/)
  await expect(node('image')).toBeVisible()
  await material.flat()
  await material.show('colour')
  await material.sharp()
  expect(await material.pixel(0.5, 0.5)).toEqual([0x33, 0x66, 0xcc])
  await material.saved()
})
