import { expect, test } from '@playwright/test'
import sharp from 'sharp'
import { MaterialPage } from './support/material-page'

const members = {
  nodes: {
    noise: { type: 'noise', params: { cells: [2, 2], octaves: 1 } },
    same: { type: 'levels', inputs: { source: 'noise.grey' } },
    spare: { type: 'cells' },
  },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      cells: { colour: { source: { value: '#804020' } }, height: { source: { node: 'same.result' } } },
    },
    {
      kind: 'layer',
      id: 'veil',
      name: 'Veil',
      amount: 0.75,
      cells: { colour: { source: { value: '#ffffff' } } },
    },
  ],
}

test('a press on the stage names the layers there and chooses the topmost; its value can be copied', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Here', members)
  const stage = page.getByRole('region', { name: 'Stage' })
  const canvas = material.stage
  await stage.getByRole('button', { name: 'What lies here' }).click()
  await canvas.click()
  const found = page.getByRole('dialog', { name: 'What lies here' })
  await expect(found.getByRole('list', { name: 'Layers here' }).getByRole('button')).toHaveText([
    /^Veil.*75 %/,
    /^Base.*25 %/,
  ])
  await expect(material.settings.getByRole('heading', { name: /^Veil/ })).toBeVisible()
  await found.getByRole('button', { name: 'Copy' }).click()
  await expect(page.getByRole('status', { name: 'Notice' })).toContainText('is on the clipboard')
  await found.getByRole('button', { name: /^Base/ }).click()
  await expect(found).toBeHidden()
  await expect(material.settings.getByRole('heading', { name: /^Base/ })).toBeVisible()
  // By keyboard: the middle of the stage.
  await canvas.focus()
  await page.keyboard.press('i')
  await expect(found).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(found).toBeHidden()
})

test('light to judge by: the lamp by hand, raking, plain grey, the test body with its relief, and back', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Light', members)
  const stage = page.getByRole('region', { name: 'Stage' })
  const canvas = material.stage
  const picture = async (): Promise<string> => {
    await material.sharp()
    // The middle, where no button lies over it.
    const { x, y, width, height } = (await canvas.boundingBox())!
    const clip = { x: x + width / 4, y: y + height / 3, width: width / 2, height: height / 3 }
    return (await page.screenshot({ clip })).toString('base64')
  }
  await stage.getByRole('combobox', { name: 'Shape' }).selectOption('test body')
  await expect(canvas).toHaveAttribute('aria-label', /on a test body/)
  const seen = new Set([await picture()])
  // A program that does not compile is told there.
  const complaints: string[] = []
  page.on('console', (message) => message.type() === 'error' && complaints.push(message.text()))
  const light = page.getByRole('dialog', { name: 'Light' })
  const change = async (work: () => Promise<unknown>): Promise<void> => {
    await stage.getByRole('button', { name: 'Light', exact: true }).click()
    await work()
    await page.keyboard.press('Escape')
    await expect(light).toBeHidden()
    const after = await picture()
    expect(seen.has(after)).toBe(false)
    seen.add(after)
  }
  await change(() => light.getByRole('button', { name: 'Raking light' }).click())
  await change(async () => {
    await light.getByRole('application', { name: /^Lamp/ }).focus()
    for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight')
  })
  // By another workflow: what is not made of metal looks the same by its specular colour, and not as an older renderer lights it.
  const before = await picture()
  const lit = (look: string) => light.getByRole('combobox', { name: 'Lit as' }).selectOption(look)
  await stage.getByRole('button', { name: 'Light', exact: true }).click()
  await lit('Specular and gloss')
  await page.keyboard.press('Escape')
  expect(await apart(before, await picture())).toBeLessThan(1)
  await change(() => lit('Older renderer'))
  await change(() => lit('Strands'))
  await change(async () => {
    await light.getByRole('spinbutton', { name: 'Highlight', exact: true }).fill('2')
    await page.keyboard.press('Enter')
  })
  await stage.getByRole('button', { name: 'Light', exact: true }).click()
  await lit('Metal and roughness')
  await page.keyboard.press('Escape')
  expect(seen.has(await picture())).toBe(true)
  expect(complaints).toEqual([])
  await change(() => light.getByRole('checkbox', { name: 'Plain grey, to see relief alone' }).check())
  await change(() => light.getByRole('combobox', { name: 'Height moves' }).selectOption('every shape'))
  await change(() => light.getByRole('radio', { name: 'blurred' }).click())
  await stage.getByRole('button', { name: 'Light', exact: true }).click()
  await light.getByRole('button', { name: 'As at the start' }).click()
  await page.keyboard.press('Escape')
  expect(seen.has(await picture())).toBe(true)
})

test('what nodes cost and change, a node alone, and a frame that takes its nodes along', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Costs', members)
  const { nodes, stage: canvas } = material
  await page.getByRole('button', { name: 'Whole graph' }).click()
  await nodes.getByRole('button', { name: 'Costs' }).click()
  await expect(nodes.locator('[data-node=same] [data-weight]')).toContainText('no change')
  await expect(nodes.locator('[data-node=noise] [data-weight]')).toContainText(/ms · \d+\/255/)
  await expect(nodes.locator('[data-node=spare] [data-weight]')).toHaveCount(0)
  await nodes.getByRole('button', { name: 'Costs' }).click()
  await page.getByRole('menuitem', { name: 'Levels' }).click()
  await expect(material.settings).toContainText('nothing changes')
  await expect(page.getByRole('menu')).toBeHidden()

  await nodes.locator('.react-flow__node[data-id=noise]').focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('a')
  await expect(canvas).toHaveAttribute('data-shown', 'noise.grey')
  await page.keyboard.press('a')
  await expect(canvas).toHaveAttribute('data-shown', 'lit')

  await page.keyboard.press('g')
  const name = nodes.getByRole('textbox', { name: 'Name of the frame' })
  await expect(name).toBeFocused()
  await name.fill('Waves')
  await page.keyboard.press('Enter')
  const frame = nodes.getByRole('region', { name: 'Frame Waves' })
  const card = nodes.locator('[data-node=noise]')
  const before = (await card.boundingBox())!
  const box = (await frame.boundingBox())!
  await page.mouse.move(box.x + 20, box.y + 10)
  await page.mouse.down()
  // Far enough that what a busy page leaves out of the first steps does not matter.
  await page.mouse.move(box.x + 110, box.y + 60, { steps: 8 })
  await page.mouse.up()
  const after = (await card.boundingBox())!
  const moved = (await frame.boundingBox())!
  expect(after.x - before.x).toBeGreaterThan(15)
  expect([after.x - before.x, after.y - before.y].map(Math.round)).toEqual(
    [moved.x - box.x, moved.y - box.y].map(Math.round),
  )
  await material.saved()
  await page.reload()
  await expect(frame).toBeVisible()
})

/** How far two pictures are apart, in 255ths a value on average. */
async function apart(a: string, b: string): Promise<number> {
  const [one, other] = await Promise.all([a, b].map((png) => sharp(Buffer.from(png, 'base64')).raw().toBuffer()))
  let sum = 0
  for (let i = 0; i < one!.length; i++) sum += Math.abs(one![i]! - other![i]!)
  return sum / one!.length
}
