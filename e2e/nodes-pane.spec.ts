import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'
import { dragBetween, middleOf } from './support/pointer'

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
  const ramp = (await material.settings.getByTitle(/Press to add a stop/).boundingBox())!
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
  await expect(page.getByRole('status', { name: 'Notice' })).toContainText('Softened 2 copied')
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain('"kind": "nodes"')
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

test('nodes by intent: a wire picked up, a card in a wire and on cells, masks on cells, what deleting changes', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Intent', {
    nodes: {
      noise: { type: 'noise', at: [0, 0] },
      soft: { type: 'blur', at: [230, 0], inputs: { source: 'noise.grey' } },
      other: { type: 'gradient-remap', at: [230, 130] },
      hard: { type: 'threshold', at: [0, 220] },
      lone: { type: 'cells', at: [230, 280] },
    },
    layers: [
      {
        kind: 'layer',
        id: 'base',
        name: 'Base',
        mask: [{ source: { node: 'soft.result' } }],
        cells: { height: { source: { node: 'soft.result' } }, colour: { source: { value: '#808080' } } },
      },
    ],
  })
  await page.getByRole('button', { name: 'Whole graph' }).click()
  await page.getByRole('button', { name: 'All of it in view' }).click()
  const node = (id: string) => material.nodes.locator(`[data-node=${id}]`)
  const notice = page.getByRole('status', { name: 'Notice' })
  const drag = (from: [number, number], to: [number, number]): Promise<void> => dragBetween(page, from, to)
  const wire = (name: string) => material.nodes.getByLabel(name, { exact: true })
  const input = (id: string) => node(id).getByLabel(/^Input source/)

  // Picked up at a wired input, and laid into another: it is gone from the first.
  await expect(wire('Wire from noise.grey to soft, source')).toBeAttached()
  await drag(await middleOf(input('soft')), await middleOf(input('other')))
  await expect(wire('Wire from noise.grey to other, source')).toBeAttached()
  await expect(wire('Wire from noise.grey to soft, source')).not.toBeAttached()
  // Picked up and let go over empty ground it is cut, and no list opens.
  const pane = (await material.nodes.boundingBox())!
  await drag(await middleOf(input('other')), [pane.x + 12, pane.y + pane.height - 12])
  await expect(wire('Wire from noise.grey to other, source')).not.toBeAttached()
  await expect(page.getByRole('dialog', { name: 'Add a node' })).toBeHidden()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(wire('Wire from noise.grey to soft, source')).toBeAttached()

  // A card that is dropped on a wire goes between; where it stood before is no step of undo.
  const path = wire('Wire from noise.grey to soft, source').locator('.react-flow__edge-path')
  const on = await path.evaluate((one: SVGPathElement) => {
    const p = one.getPointAtLength(one.getTotalLength() / 2)
    const matrix = one.getScreenCTM()!
    return [p.x * matrix.a + matrix.e, p.y * matrix.d + matrix.f] as [number, number]
  })
  const [cardX, cardY] = await middleOf(node('hard'))
  const head = await middleOf(node('hard').getByText('Threshold'))
  await drag(head, [on[0] + head[0] - cardX, on[1] + head[1] - cardY])
  await expect(wire('Wire from noise.grey to hard, source')).toBeAttached()
  await expect(wire('Wire from hard.result to soft, source')).toBeAttached()
  await page.keyboard.press('Control+z')
  await expect(notice).toHaveText(/^Undone: put Threshold into a wire/)
  await expect(wire('Wire from noise.grey to soft, source')).toBeAttached()
  expect(Math.abs((await middleOf(node('hard')))[1] - on[1])).toBeLessThan(20)

  // A card carried onto a cell feeds it, and stands where it stood.
  const stood = await middleOf(node('lone'))
  await drag(await middleOf(node('lone').getByText('Cells')), await middleOf(material.cell('base', 'metallic')))
  await expect(material.cell('base', 'metallic')).toHaveAccessibleName(/normal, amount/)
  await expect(material.settings.getByRole('heading', { name: /Cells/ })).toBeVisible()
  expect(await middleOf(node('lone'))).toEqual(stood)
  // The end of a wire on a mask is one more entry; a mask on a cell is its source.
  await drag(
    await middleOf(node('hard').getByLabel('Output result, grey')),
    await middleOf(material.cell('base', 'mask')),
  )
  await expect(material.cell('base', 'mask')).toHaveAccessibleName('Mask of Base: 2 entries')
  await drag(await middleOf(material.cell('base', 'mask')), await middleOf(material.cell('base', 'opacity')))
  await expect(material.settings.getByLabel('Source', { exact: true })).toHaveValue('tap:base-mask')

  // Deleting what several read says what else changes, where it happened; its button takes it back.
  await node('soft').getByText('Blur').click()
  await page.keyboard.press('Delete')
  await expect(notice).toContainText('Blur deleted; 2 places read it: Base, mask, Base, height.')
  expect((await notice.boundingBox())!.y).toBeGreaterThan((await material.nodes.boundingBox())!.y)
  await notice.getByRole('button', { name: 'Undo' }).click()
  await expect(node('soft')).toBeVisible()
  // Nodes that nothing uses are listed; what only a deleted layer used is offered.
  await page.getByRole('button', { name: '1 unused' }).click()
  await page.getByRole('menuitem', { name: 'Gradient remap' }).click()
  await expect(node('other')).toHaveClass(/border-accent/)
  await material.cell('base', 'layer').press('Delete')
  await notice.getByRole('button', { name: 'Delete them too' }).click()
  await expect(material.nodes.locator('[data-node]')).toHaveCount(1)
  await material.saved()
})

test('curve and ramp: press and drag is one gesture, a press near a point takes it', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Curves', {
    nodes: {
      noise: { type: 'noise', at: [0, 0] },
      bend: { type: 'curve', at: [220, 0], inputs: { source: 'noise.grey' } },
    },
  })
  await page.getByRole('button', { name: 'Whole graph' }).click()
  await material.nodes.locator('[data-node=bend]').getByText('Curve', { exact: true }).click()
  const area = material.settings.getByTitle(/Press to add a point/)
  await expect(material.settings.getByRole('img', { name: /values are that come in/ })).toBeVisible()
  await area.scrollIntoViewIfNeeded()
  const { x, y, width, height } = (await area.boundingBox())!
  expect(Math.abs(width - height)).toBeLessThan(2)
  const at = (across: number, up: number): [number, number] => [x + width * across, y + height * (1 - up)]
  const before = await material.revision()
  await page.mouse.move(...at(0.5, 0.7))
  await page.mouse.down()
  await page.mouse.move(...at(0.4, 0.9), { steps: 5 })
  await page.mouse.up()
  const point = material.settings.getByRole('slider', { name: 'Point 3 of 5' })
  await expect(point).toHaveAttribute('aria-valuetext', /^0\.(39|4)\d* becomes 0\.(89|9)/)
  await expect(point).toBeFocused()
  await material.saved()
  expect(await material.revision()).toBe(before + 1)
  // A few pixels beside it the same point is taken, and no other made.
  await page.mouse.move(at(0.4, 0.9)[0] + 6, at(0.4, 0.9)[1] + 3)
  await page.mouse.down()
  await page.mouse.move(...at(0.6, 0.4), { steps: 5 })
  await page.mouse.up()
  await expect(material.settings.getByRole('slider')).toHaveCount(5)
  await page.keyboard.press('PageDown')
  await expect(material.settings.getByRole('slider', { name: 'Point 4 of 5' })).toBeFocused()
  await expect(material.settings.getByText('Point 4', { exact: true })).toBeVisible()
  await page.keyboard.press('PageUp')
  await page.keyboard.press('Delete')
  await expect(material.settings.getByRole('slider')).toHaveCount(4)
  await expect(material.settings.getByRole('slider', { name: 'Point 2 of 4' })).toBeFocused()
})
