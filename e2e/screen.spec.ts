import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { expect, test } from '@playwright/test'
import { MapsPage } from './support/maps-page'
import { MaterialPage } from './support/material-page'
import { dragBetween, middleOf } from './support/pointer'

test.setTimeout(240_000)

/**
 * What axe finds with the rules of WCAG 2.2 A and AA. In the graph, which zooms, targets may be small: all they do can be
 * done by larger controls of the sheet and the settings (2.5.8, the exception "Equivalent").
 */
async function findings(page: Page): Promise<string[]> {
  const all = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .disableRules(['target-size'])
    .analyze()
  const targets = await new AxeBuilder({ page }).withRules(['target-size']).exclude('.react-flow__viewport').analyze()
  return [...all.violations, ...targets.violations].flatMap(({ id, nodes }) =>
    nodes.map(({ target, failureSummary }) => `${id}: ${target.join(' ')} ${failureSummary}`),
  )
}

test('axe finds nothing in either theme, whatever is chosen or open', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openDemo('Limewash')
  for (const theme of ['linen', 'soot']) {
    expect(await page.evaluate(() => document.documentElement.dataset.theme)).toBe(theme)
    await material.select('wash', 'colour')
    expect(await findings(page)).toEqual([])
    await material.select('coat', 'mask')
    await page.getByRole('button', { name: 'Whole graph' }).click()
    expect(await findings(page)).toEqual([])
    await page.getByRole('button', { name: 'Whole graph' }).click()
    for (const tab of ['Dials', 'States']) {
      await page.getByRole('tab', { name: tab }).click()
      expect(await findings(page)).toEqual([])
    }
    await page.keyboard.press('Control+k')
    await expect(page.getByRole('dialog', { name: 'Find or do' })).toBeVisible()
    expect(await findings(page)).toEqual([])
    await page.keyboard.press('Escape')
    await page.getByRole('tab', { name: 'Selection' }).click()
    await page.getByRole('button', { name: /^Use the .* theme$/ }).click()
  }
})

test('the theme follows the system until one is chosen, and stays with what was chosen', async ({ page }) => {
  const theme = () => page.locator('html').getAttribute('data-theme')
  await page.emulateMedia({ colorScheme: 'dark' })
  await page.goto('/jobs')
  expect(await theme()).toBe('soot')
  await page.emulateMedia({ colorScheme: 'light' })
  await expect.poll(theme).toBe('linen')
  await page.getByRole('button', { name: 'Use the soot theme' }).click()
  expect(await theme()).toBe('soot')
  await page.emulateMedia({ colorScheme: 'dark' })
  await page.emulateMedia({ colorScheme: 'light' })
  await page.reload()
  expect(await theme()).toBe('soot')
})

test('the walk comes once, follows what is done, goes over to the maps, and can be skipped', async ({ page }) => {
  const material = new MaterialPage(page)
  await page.goto('/')
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Guided')
  await page.getByRole('button', { name: 'Make it' }).click()
  const guide = page.getByRole('dialog', { name: /First material/ })
  /** At a step, wholly in the window and off what it speaks of. */
  const at = async (step: number, title: string): Promise<void> => {
    await expect(guide).toContainText(`${step} of 16`)
    await expect(guide).toContainText(title)
    const { x, y, width, height } = (await guide.boundingBox())!
    const window = page.viewportSize()!
    expect([x >= 0, y >= 0, x + width <= window.width, y + height <= window.height]).toEqual([true, true, true, true])
  }
  await at(1, 'Layers by channels')
  await guide.getByRole('button', { name: 'Next' }).click()
  await at(2, 'Add a layer')
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: /Layer of a plain colour/ }).click()
  await at(3, 'Give it a colour')
  const [top] = await material.rows()
  await material.select(top!, 'colour')
  await material.settings.getByRole('textbox', { name: /Colour/ }).fill('#8a4b23')
  await page.keyboard.press('Enter')
  await at(4, 'patches')
  await material.select(top!, 'mask')
  await material.settings.getByRole('button', { name: 'New node' }).click()
  await material.takeNode('noise')
  await at(5, 'Harden')
  // The wire to empty ground, and from what was taken onto the card where wires end: only with its level set it is done.
  const drag = (from: [number, number], to: [number, number]): Promise<void> => dragBetween(page, from, to)
  const noise = material.nodes.getByLabel('Output grey, grey')
  const pane = (await material.nodes.boundingBox())!
  await drag(await middleOf(noise.first()), [pane.x + 40, pane.y + pane.height - 40])
  await material.takeNode('threshold')
  const card = material.nodes.locator('[data-node=threshold]')
  await material.nodes.getByRole('button', { name: 'All of it in view' }).click()
  await drag(
    await middleOf(card.getByLabel('Output result, grey')),
    await middleOf(material.nodes.getByLabel(/^Into Layer, mask/)),
  )
  await expect(material.nodes.getByLabel(/^Wire from threshold.result to output/)).toBeAttached()
  await at(5, 'Harden')
  await card.getByText('Threshold').click()
  await material.type('Level', '0.55')
  await at(6, 'height')
  await material.cell(top!, 'height').dblclick()
  await at(6, 'height')
  await material.type('Value', '0.6')
  await at(7, 'dial')
  // F6 leads to the card too.
  for (let n = 0; n < 8 && !(await guide.evaluate((one) => one.contains(document.activeElement))); n++)
    await page.keyboard.press('F6')
  expect(await guide.evaluate((one) => one.contains(document.activeElement))).toBe(true)
  await material.select(top!, 'mask')
  await card.getByText('Threshold').click()
  await material.settings.getByRole('button', { name: 'Level: make a dial' }).click()
  await page.getByRole('menuitem', { name: 'Make a dial' }).click()
  await at(8, 'A picture of your own')
  await guide.getByRole('button', { name: 'Pass by' }).click()
  await at(9, 'Correct it all')
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: /^Correction/ }).click()
  const [correction] = await material.rows()
  await material.select(correction!, 'colour')
  await material.settings.getByRole('button', { name: 'Operation', exact: true }).click()
  await page.getByRole('menuitem', { name: /^Hue/ }).click()
  await at(10, 'Look')
  await guide.getByRole('button', { name: 'Next' }).click()
  await at(11, 'On to the maps')
  await page.getByRole('link', { name: 'Maps', exact: true }).click()
  await at(12, 'Files by red')
  for (const [step, title] of [
    [13, 'Check'],
    [14, 'arrives'],
    [15, 'Make'],
  ] as const) {
    await guide.getByRole('button', { name: 'Next' }).click()
    await at(step, title)
  }
  const maps = new MapsPage(page)
  await maps.size(256)
  await maps.make()
  await at(16, 'Take them along')
  await guide.getByRole('button', { name: 'Skip the walk' }).click()
  await expect(guide).toBeHidden()
  await page.reload()
  await material.awake()
  await expect(guide).toBeHidden()
  // Asked for where its first step is not, it says where to go.
  await page.keyboard.press('Control+k')
  await page.getByRole('combobox', { name: 'Find or do' }).fill('first material')
  await page.keyboard.press('Enter')
  await expect(guide).toContainText('1 of 16')
  await guide.getByRole('link', { name: 'Go on in Material' }).click()
  await expect(guide.getByRole('button', { name: 'Next' })).toBeVisible()
  await expect(guide).toContainText('1 of 16')
})

test('find or do reaches commands, layers, dials, nodes; ? lists the shortcuts', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openDemo('Limewash')
  const find = async (words: string): Promise<void> => {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox', { name: 'Find or do' }).fill(words)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('dialog', { name: 'Find or do' })).toBeHidden()
  }
  await find('rust stain')
  await expect(material.settings.getByRole('heading', { name: 'Rust stain' })).toBeVisible()
  await find('lime left')
  await expect(page.getByRole('spinbutton', { name: 'Lime left' })).toBeFocused()
  await find('add blur')
  await expect(material.settings.getByRole('heading', { name: 'Blur' })).toBeVisible()
  await find('flakes and lumps')
  await expect(material.settings.getByRole('heading', { name: 'Flakes and lumps' })).toBeVisible()
  await find('show on a cube')
  await expect(material.stage).toHaveAttribute('aria-label', /on a cube/)
  await material.cell('base', 'layer').click()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Shortcuts' })).toContainText('Show large on the stage')
})

test('states: named, compared side by side, returned to, and that undone', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Stated')
  await material.select('base', 'colour')
  const colour = material.settings.getByRole('textbox', { name: 'Colour' })
  await colour.fill('#204080')
  await colour.press('Enter')
  await material.saved()
  await page.getByRole('tab', { name: 'States' }).click()
  await page.getByRole('button', { name: 'Name this state' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Blue')
  await page.getByRole('button', { name: 'Keep the name' }).click()
  await expect(material.settings.getByText('Blue', { exact: true })).toBeVisible()
  await page.getByRole('tab', { name: 'Selection' }).click()
  await colour.fill('#c08020')
  await colour.press('Enter')
  await material.saved()
  await page.getByRole('tab', { name: 'States' }).click()
  await material.flat()
  await material.show('colour')
  await page.getByRole('button', { name: 'Compare with Blue' }).click()
  await expect(page.getByRole('separator', { name: /the two meet/ })).toBeVisible()
  await expect.poll(() => material.pixel(0.35, 0.5)).toEqual([0x20, 0x40, 0x80])
  expect(await material.pixel(0.65, 0.5)).toEqual([0xc0, 0x80, 0x20])
  await page.getByRole('separator', { name: /the two meet/ }).focus()
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight')
  await expect.poll(() => material.pixel(0.65, 0.5)).toEqual([0x20, 0x40, 0x80])
  await page.getByRole('button', { name: 'End the comparison' }).click()
  await page.getByRole('button', { name: 'Return to Blue' }).click()
  await expect.poll(() => material.pixel(0.65, 0.5)).toEqual([0x20, 0x40, 0x80])
  await page.getByRole('button', { name: 'Undo Return to Blue' }).click()
  await expect.poll(() => material.pixel(0.65, 0.5)).toEqual([0xc0, 0x80, 0x20])
  await material.saved()
})

test('numbers: drag, arrows, wheel, Shift and Alt, arithmetic, default', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Numbers')
  await material.select('base', 'colour')
  const amount = material.settings.getByRole('spinbutton', { name: 'Amount' })
  const value = async (): Promise<number> => Number(await amount.getAttribute('aria-valuenow'))
  await material.type('Amount', '1/4 + 0.25')
  expect(await value()).toBe(0.5)
  await amount.press('ArrowUp')
  expect(await value()).toBe(0.51)
  await amount.press('Shift+ArrowDown')
  expect(await value()).toBe(0.41)
  await amount.press('Alt+ArrowUp')
  expect(await value()).toBe(0.411)
  // A wheel's notches come to one edit, and so does a key that is held down.
  const revision = async (): Promise<number> => {
    await material.saved()
    return material.revision()
  }
  const before = await revision()
  await amount.hover()
  // As fast as a wheel turns, however slowly this machine draws.
  await amount.evaluate((box) => {
    for (let notch = 0; notch < 5; notch++)
      box.dispatchEvent(new WheelEvent('wheel', { deltaY: 24, bubbles: true, cancelable: true }))
  })
  await expect.poll(value).toBe(0.361)
  await expect.poll(revision).toBe(before + 1)
  for (let repeat = 0; repeat < 5; repeat++) await page.keyboard.down('ArrowUp')
  await page.keyboard.up('ArrowUp')
  expect(await value()).toBe(0.411)
  await page.mouse.wheel(0, 120)
  await expect.poll(value).toBe(0.401)
  await amount.blur()
  expect(await revision()).toBe(before + 3)
  await amount.focus()
  await amount.fill('many')
  await amount.press('Enter')
  await expect(amount).toHaveAttribute('aria-invalid', 'true')
  await amount.press('Escape')
  expect(await value()).toBe(0.401)
  await page.getByRole('heading', { name: /Base/ }).click()
  const box = (await amount.boundingBox())!
  await page.mouse.move(box.x + 30, box.y + 10)
  await page.mouse.down()
  await page.mouse.move(box.x + 50, box.y + 10, { steps: 4 })
  await page.mouse.up()
  expect(await value()).toBeCloseTo(0.501, 2)
  await amount.dblclick()
  expect(await value()).toBe(1)
  // Notches beyond the end are not owed on the way back.
  await amount.evaluate((box) => {
    box.focus()
    for (const deltaY of [-24, -24, -24, 24])
      box.dispatchEvent(new WheelEvent('wheel', { deltaY, bubbles: true, cancelable: true }))
  })
  await expect.poll(value).toBe(0.99)
  await material.saved()
})

test('dials: made from a setting, bound to another, arranged, reset, freed', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Dials')
  await material.select('base', 'roughness')
  await material.settings.getByRole('button', { name: 'Amount: make a dial' }).click()
  await page.getByRole('menuitem', { name: 'Make a dial' }).click()
  await material.select('base', 'colour')
  await material.settings.getByRole('button', { name: 'Amount: make a dial' }).click()
  await page.getByRole('menuitem', { name: 'Bind to “Amount”' }).click()
  await page.getByRole('tab', { name: 'Dials' }).click()
  await page.getByRole('button', { name: 'Amount: arrange' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Cover')
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: 'Section' }).fill('Base')
  await page.keyboard.press('Enter')
  await expect(material.settings.getByRole('heading', { name: 'Base' })).toBeVisible()
  await material.type('Greatest value of the dial', '0.8')
  const dial = material.settings.getByRole('spinbutton', { name: 'Cover', exact: true })
  await expect(dial).toHaveAttribute('aria-valuenow', '0.8')
  await dial.fill('0.2')
  await dial.press('Enter')
  // Both cells follow; a setting that is driven turns the dial.
  for (const column of ['roughness', 'colour'])
    await expect(material.cell('base', column).locator('[data-amount]')).toHaveAttribute('data-amount', '0.2')
  await page.getByRole('tab', { name: 'Selection' }).click()
  await material.type('Amount', '0.6')
  await page.getByRole('tab', { name: 'Dials' }).click()
  await expect(dial).toHaveAttribute('aria-valuenow', '0.6')
  await page.getByRole('button', { name: 'Cover: back to the default' }).click()
  await expect(dial).toHaveAttribute('aria-valuenow', '0.8')
  await page.getByRole('tab', { name: 'Selection' }).click()
  await material.settings.getByRole('button', { name: /Amount: driven by the dial Cover/ }).click()
  await page.getByRole('menuitem', { name: /Free it/ }).click()
  await expect(material.settings.getByRole('button', { name: 'Amount: make a dial' })).toBeAttached()
  await material.saved()
})
