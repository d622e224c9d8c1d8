import type { Locator } from '@playwright/test'
import { expect, test } from '@playwright/test'
import { MapsPage, planesOf } from './support/maps-page'
import { MaterialPage } from './support/material-page'
import { middleOf } from './support/pointer'

test.setTimeout(180_000)

/** What a press, a drag, and a typed value with its Enter come to, from nothing to a downloaded delivery. */
const MAX_ACTIONS = 32

test('two layers of noise, cells, threshold, bevel and gradient remap, made and downloaded, in few actions', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await page.addInitScript(() => localStorage.setItem('amber-grist-guided', 'yes'))
  await page.goto('/')
  let actions = 0
  const press = async (what: Locator): Promise<void> => {
    actions++
    await what.click()
  }
  const key = async (name: string): Promise<void> => {
    actions++
    await page.keyboard.press(name)
  }
  const type = async (what: Locator, text: string): Promise<void> => {
    actions++
    await what.fill(text)
    await what.press('Enter')
  }
  /** Takes a node from the open list: typed, and Enter. */
  const take = async (node: string): Promise<void> => {
    actions++
    await material.takeNode(node)
  }
  const drag = async (from: Locator, to: Locator | [number, number]): Promise<void> => {
    actions++
    // Once it stands still and takes the press.
    await from.hover()
    await page.mouse.down()
    await page.mouse.move(...(Array.isArray(to) ? to : await middleOf(to)), { steps: 10 })
    await page.mouse.up()
  }
  const port = (node: string, name: RegExp): Locator => material.nodes.locator(`[data-node=${node}]`).getByLabel(name)
  const ground = async (across: number, down: number): Promise<[number, number]> => {
    const { x, y, width, height } = (await material.nodes.boundingBox())!
    return [x + width * across, y + height * down]
  }

  await press(page.getByRole('button', { name: 'New project' }))
  await type(page.getByRole('textbox', { name: 'Name' }), 'A first hour')
  await page.waitForURL(/\/documents\//)
  await material.awake()

  // Under all: cells, coloured by a ramp, their edges bevelled into the height.
  await press(material.cell('base', 'colour'))
  await key('n')
  await take('gradient')
  await drag(port('gradient-remap', /^Input source/), await ground(0.15, 0.75))
  await take('cells')
  await drag(port('cells', /^Output border/), await ground(0.85, 0.95))
  await take('bevel')
  await drag(port('bevel', /^Output/).first(), material.cell('base', 'height'))
  await expect(material.cell('base', 'height')).toHaveAccessibleName(/amount 100 %/)

  // Over it: a colour in patches with an edge, that rise.
  await press(page.getByRole('button', { name: 'Add', exact: true }))
  await press(page.getByRole('menuitem', { name: /Layer of a plain colour/ }))
  const [top] = await material.rows()
  await press(material.cell(top!, 'colour'))
  await type(material.settings.getByRole('textbox', { name: /Colour/ }), '#8a4b23')
  await press(material.cell(top!, 'mask'))
  await key('n')
  await take('noise')
  await drag(port('noise', /^Output grey/), await ground(0.2, 0.9))
  await take('threshold')
  await drag(port('threshold', /^Output result/), material.cell(top!, 'mask'))
  actions++
  await material.cell(top!, 'height').dblclick()
  await type(material.settings.getByRole('spinbutton', { name: 'Value' }), '0.6')
  await material.saved()

  await press(page.getByRole('link', { name: 'Maps', exact: true }))
  const maps = new MapsPage(page)
  await press(page.getByRole('tab', { name: /^Make/ }))
  await press(page.getByRole('radio', { name: '512', exact: true }))
  actions++
  await maps.make()
  await expect(maps.row('512 × 512')).toBeVisible({ timeout: 60_000 })
  actions++
  const files = await maps.download(maps.row('512 × 512'))
  expect(actions).toBeLessThanOrEqual(MAX_ACTIONS)

  // It is all in what arrives: the ramp's and the patches' colours, and slopes of both.
  const name = [...files.keys()].find((one) => one.includes('_colour'))!
  const [red] = planesOf(files, name)
  const patches = [...red!].filter((v) => Math.round(v * 255) === 0x8a).length / red!.length
  expect(patches).toBeGreaterThan(0.1)
  expect(patches).toBeLessThan(0.9)
  const [x] = planesOf(
    files,
    [...files.keys()].find((one) => one.includes('_normal'))!,
  )
  expect(Math.max(...x!.subarray(0, 4096)) - Math.min(...x!.subarray(0, 4096))).toBeGreaterThan(0.1)
})

/** The same for a set with a picture, a mask, a correction and a dial of one's own: item by item what a first evening needs. */
const MAX_EVENING_ACTIONS = 40

test('from nothing to a delivered set with a picture, a mask, a correction and a dial', async ({ page }) => {
  const material = new MaterialPage(page)
  await page.addInitScript(() => localStorage.setItem('amber-grist-guided', 'yes'))
  await page.goto('/')
  const begun = Date.now()
  let actions = 0
  const press = async (what: Locator): Promise<void> => {
    actions++
    await what.click()
  }
  const type = async (what: Locator, text: string): Promise<void> => {
    actions++
    await what.fill(text)
    await what.press('Enter')
  }
  await press(page.getByRole('button', { name: 'New project' }))
  await type(page.getByRole('textbox', { name: 'Name' }), 'A first evening')
  await page.waitForURL(/\/documents\//)
  await material.awake()

  // A picture, dropped: a decal.
  const files = await page.evaluateHandle(async () => {
    const canvas = new OffscreenCanvas(64, 64)
    const context = canvas.getContext('2d')!
    context.fillStyle = '#c03020'
    context.arc(32, 32, 28, 0, 7)
    context.fill()
    const data = new DataTransfer()
    data.items.add(new File([await canvas.convertToBlob()], 'disc.png', { type: 'image/png' }))
    return data
  })
  actions++
  await material.stage.dispatchEvent('drop', { dataTransfer: files, clientX: 950, clientY: 240 })
  await expect.poll(() => material.rows()).toHaveLength(2)

  // A layer with a ready mask, and a dial for how far it reaches.
  await press(page.getByRole('button', { name: 'Add', exact: true }))
  await press(page.getByRole('menuitem', { name: /Layer of a plain colour/ }))
  const [top] = await material.rows()
  await press(material.cell(top!, 'colour'))
  await type(material.settings.getByRole('textbox', { name: /Colour/ }), '#5a6b3a')
  await press(material.cell(top!, 'mask'))
  await press(material.settings.getByRole('button', { name: 'Ready-made' }))
  await press(page.getByRole('menuitem', { name: /^Noise break-up/ }))
  await press(material.cell(top!, 'layer'))
  await press(material.settings.getByRole('button', { name: 'Amount: make a dial' }))
  await press(page.getByRole('menuitem', { name: 'Make a dial' }))

  // A correction of all that lies below.
  await press(page.getByRole('button', { name: 'Add', exact: true }))
  await press(page.getByRole('menuitem', { name: /^Correction/ }))
  const [correction] = await material.rows()
  await press(material.cell(correction!, 'colour'))
  await press(material.settings.getByRole('button', { name: 'Operation', exact: true }))
  await press(page.getByRole('menuitem', { name: /^Hue/ }))
  await type(material.settings.getByRole('spinbutton', { name: 'Saturation' }), '0.5')
  await material.saved()

  await press(page.getByRole('link', { name: 'Maps', exact: true }))
  const maps = new MapsPage(page)
  await press(page.getByRole('tab', { name: /^Make/ }))
  await press(page.getByRole('radio', { name: '512', exact: true }))
  actions++
  await maps.make()
  await expect(maps.row('512 × 512')).toBeVisible({ timeout: 60_000 })
  actions++
  const made = await maps.download(maps.row('512 × 512'))
  test.info().annotations.push({ type: 'actions', description: `${actions} in ${(Date.now() - begun) / 1000} s` })
  expect(actions).toBeLessThanOrEqual(MAX_EVENING_ACTIONS)
  expect((Date.now() - begun) / 60_000).toBeLessThan(10)

  // The disc arrives, half as saturated, and so does the growth on it.
  const [red, green] = planesOf(
    made,
    [...made.keys()].find((one) => one.includes('_colour'))!,
  )
  const share = (is: (r: number, g: number) => boolean): number =>
    red!.filter((r, i) => is(r * 255, green![i]! * 255)).length / red!.length
  expect(share((r, g) => r > g + 30 && r < 190)).toBeGreaterThan(0.02)
  expect(share((r, g) => g > r)).toBeGreaterThan(0.05)
})
