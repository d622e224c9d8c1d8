import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

test.setTimeout(180_000)

test('layers: drag to reorder, into a group, fold, rename, duplicate, delete', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openDemo('Limewash')
  expect(await material.rows()).toEqual(['tide', 'coat', 'calm', 'stain', 'wash', 'base'])
  const drag = async (from: string, to: string, ratio: number): Promise<void> => {
    const a = (await material.cell(from, 'layer').getByText(/\w/).first().boundingBox())!
    const b = (await material.cell(to, 'layer').boundingBox())!
    await page.mouse.move(a.x + 20, a.y + a.height / 2)
    await page.mouse.down()
    await page.mouse.move(b.x + 30, b.y + b.height * ratio, { steps: 10 })
    await page.mouse.up()
  }
  await drag('tide', 'base', 0.2)
  await expect.poll(() => material.rows()).toEqual(['coat', 'calm', 'stain', 'wash', 'tide', 'base'])
  await drag('tide', 'coat', 0.5)
  await expect.poll(() => material.rows()).toEqual(['coat', 'tide', 'calm', 'stain', 'wash', 'base'])
  await page.getByRole('button', { name: 'Undo Move Tide line' }).click()
  await page.getByRole('button', { name: 'Undo Move Tide line' }).click()
  expect(await material.rows()).toEqual(['tide', 'coat', 'calm', 'stain', 'wash', 'base'])
  await page.getByRole('button', { name: 'Fold Limewash' }).click()
  expect(await material.rows()).toEqual(['tide', 'coat', 'base'])
  await material.select('tide', 'layer')
  await page.keyboard.press('Control+d')
  expect(await material.rows()).toEqual(['tide-2', 'tide', 'coat', 'base'])
  await expect(material.cell('tide-2', 'layer')).toBeFocused()
  await page.keyboard.press('Delete')
  expect(await material.rows()).toEqual(['tide', 'coat', 'base'])
  await material.select('base', 'layer')
  await material.cell('base', 'layer').dblclick()
  await page.getByRole('textbox', { name: 'Name of Cast iron' }).fill('Old iron')
  await page.keyboard.press('Enter')
  await expect(material.cell('base', 'layer')).toContainText('Old iron')
  await material.saved()
})

test('several layers: chosen with Shift and Ctrl, moved, grouped, switched and deleted together; menus of the right button', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Several', {
    layers: ['a', 'b', 'c', 'd', 'e'].map((id) => ({ kind: 'layer', id, name: `Layer ${id}`, cells: {} })),
  })
  const row = (id: string) => material.cell(id, 'layer')
  const chosen = () =>
    page
      .locator('[data-layer][aria-selected=true]')
      .evaluateAll((rows) => rows.map((one) => (one as HTMLElement).dataset.layer))
  await row('d').click()
  await row('b').click({ modifiers: ['Shift'] })
  expect(await chosen()).toEqual(['d', 'c', 'b'])
  await row('c').click({ modifiers: ['Control'] })
  expect(await chosen()).toEqual(['d', 'b'])
  // Found by their names, and all there again.
  await page.keyboard.press('Control+f')
  const find = page.getByRole('searchbox', { name: 'Find layers' })
  await find.fill('layer c')
  await expect(page.locator('[data-layer]')).toHaveCount(1)
  await find.press('Escape')
  await expect(page.locator('[data-layer]')).toHaveCount(5)
  await expect(find).toBeHidden()
  // The menu is of all of them, with the keys beside the words.
  await row('b').click({ button: 'right' })
  await expect(page.getByRole('menuitem', { name: 'Delete 2 layers Delete' })).toBeVisible()
  await page.getByRole('menuitem', { name: /^Move up/ }).click()
  expect(await material.rows()).toEqual(['d', 'e', 'b', 'c', 'a'])
  await page.keyboard.press('Control+z')
  expect(await material.rows()).toEqual(['e', 'd', 'c', 'b', 'a'])
  // By keyboard: two more rows, then a group around them, which takes their places in order.
  await row('d').click()
  await row('d').press('Shift+ArrowDown')
  await row('d').press('Shift+ArrowDown')
  expect(await chosen()).toEqual(['d', 'c', 'b'])
  await row('d').press('g')
  expect(await material.rows()).toEqual(['e', 'group', 'd', 'c', 'b', 'a'])
  await expect(row('group')).toBeFocused()
  // What is added has the keyboard.
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: /^Empty layer/ }).click()
  await expect(row('layer')).toBeFocused()
  // A cell's menu puts something in; a press elsewhere chooses one row again.
  await material.cell('a', 'height').click({ button: 'right' })
  await page.getByRole('menuitem', { name: /^Put a value in/ }).click()
  await expect(material.cell('a', 'height')).toHaveAccessibleName(/normal, amount 100 %/)
  await row('c').click()
  await row('d').click({ modifiers: ['Control'] })
  await row('c').press('o')
  await expect(row('d')).toContainText('off')
  await row('c').press('Delete')
  expect((await material.rows()).sort()).toEqual(['a', 'b', 'e', 'group', 'layer'])
  await material.saved()
})

test('cells: drag copies, Alt-drag links, both by keyboard too; amount and blend in place', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openDemo('Limewash')
  const drag = async (to: string, alt: boolean, inOneGo = false): Promise<void> => {
    const a = (await material.cell('wash', 'height').boundingBox())!
    const b = (await material.cell('base', to).boundingBox())!
    if (alt) await page.keyboard.down('Alt')
    await page.mouse.move(a.x + 16, a.y + 8)
    await page.mouse.down()
    await page.mouse.move(a.x + 30, a.y + 24)
    // What a busy page gets in one go, it has drawn nothing of when the release comes.
    const rest = [
      () => page.mouse.move(b.x + 20, b.y + 20, { steps: 8 }),
      () => page.mouse.up(),
      () => (alt ? page.keyboard.up('Alt') : null),
    ]
    const busy =
      inOneGo &&
      page.evaluate(() => {
        const end = performance.now() + 1000
        while (performance.now() < end);
      })
    if (inOneGo) await Promise.all([busy, ...rest.map((step) => step())])
    else for (const step of rest) await step()
  }
  const source = () => material.settings.getByRole('combobox', { name: 'Source' }).inputValue()
  await material.select('wash', 'height')
  const original = await source()
  await drag('occlusion', true)
  await expect(material.cell('base', 'occlusion')).toHaveAttribute('aria-label', /amount/)
  expect(await source()).toBe(original)
  await drag('opacity', false)
  await expect(material.cell('base', 'opacity')).toHaveAttribute('aria-label', /amount/)
  expect(await source()).not.toBe(original)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(material.cell('base', 'opacity')).toHaveAttribute('aria-label', /empty/)
  // Let go before the last moves are drawn: the drop counts where the pointer was, with Alt as it was then.
  await drag('opacity', true, true)
  await expect(material.cell('base', 'opacity')).toHaveAttribute('aria-label', /amount/)
  await material.select('base', 'opacity')
  expect(await source()).toBe(original)
  await page.keyboard.press('Control+z')
  await material.select('wash', 'height')
  await page.keyboard.press('Control+c')
  await material.select('tide', 'height')
  await page.keyboard.press('Control+Shift+V')
  expect(await source()).toBe(original)
  // The bar beside the swatch, and the word under it.
  const bar = (await material.cell('tide', 'height').locator('[data-amount]').boundingBox())!
  await page.mouse.move(bar.x + 4, bar.y + 2)
  await page.mouse.down()
  await page.mouse.move(bar.x + 4, bar.y + bar.height / 2, { steps: 4 })
  await page.mouse.up()
  await expect(material.cell('tide', 'height')).toHaveAttribute('aria-label', /amount 5\d %/)
  await material.cell('tide', 'height').getByRole('combobox').selectOption('add')
  await expect(material.cell('tide', 'height')).toHaveAttribute('aria-label', /add, amount/)
  // A normal cannot be dropped into a grey channel; the reason is told.
  const n = (await material.cell('base', 'normal').boundingBox())!
  const r = (await material.cell('wash', 'occlusion').boundingBox())!
  await page.mouse.move(n.x + 16, n.y + 8)
  await page.mouse.down()
  await page.mouse.move(r.x + 20, r.y + 20, { steps: 8 })
  await page.mouse.up()
  await expect(page.getByRole('status', { name: 'Notice' })).toContainText('carries normal and the port takes grey')
  await material.saved()
})

test('masks: entries with mode, amount, invert, order; off, alone, and held', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openDemo('Limewash')
  await material.select('coat', 'mask')
  await material.settings.getByRole('button', { name: 'Value' }).click()
  const entries = material.settings.getByRole('list', { name: /Mask entries/ }).getByRole('listitem')
  await expect(entries).toHaveCount(2)
  await material.type('Value', '0.4')
  const covers = () => material.cell('coat', 'layer').textContent()
  await expect.poll(covers).toMatch(/covers/)
  await material.settings.getByRole('combobox', { name: 'Mode' }).selectOption('maximum')
  await expect(entries.first()).toContainText('maximum')
  await material.settings.getByRole('switch', { name: 'Invert' }).check()
  await expect(entries.first()).toContainText('inverted')
  await material.settings.getByRole('button', { name: 'Move entry 2' }).press('Alt+ArrowDown')
  await expect(entries.last()).toContainText('value 0.4')
  // The upper one in a group with the lower: they become one mask.
  await material.settings.getByRole('button', { name: 'Group entry 2 with the entry under it' }).click()
  await expect(material.settings.getByRole('button', { name: /^Entry 2: .* grouped with/ })).toBeVisible()
  await material.settings.getByRole('button', { name: 'Take entry 2 out of its group' }).click()
  await expect(material.settings.getByRole('button', { name: /grouped with/ })).toBeHidden()
  // Off shows something else; held shows it only while held; alone can be ended with Escape.
  await material.flat()
  await material.sharp()
  const with_ = await material.mean(0.5, 0.5, 0.6)
  const hold = material.settings.getByRole('button', { name: /Hold to see the material without entry 2/ })
  await hold.hover()
  await page.mouse.down()
  await material.sharp()
  const held = await material.mean(0.5, 0.5, 0.6)
  await page.mouse.up()
  await material.sharp()
  const back = await material.mean(0.5, 0.5, 0.6)
  const apart = (a: number[], b: number[]): number => Math.max(...a.map((v, i) => Math.abs(v - b[i]!)))
  expect(apart(with_, held)).toBeGreaterThan(3)
  expect(apart(with_, back)).toBeLessThan(1)
  await material.select('coat', 'layer')
  await page.keyboard.press('a')
  await expect(page.getByRole('button', { name: /shown alone/ })).toBeVisible()
  await material.sharp()
  expect(apart(with_, await material.mean(0.5, 0.5, 0.6))).toBeGreaterThan(1)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: /shown alone/ })).toBeHidden()
  await material.saved()
})

test('thirty layers over twelve channels scroll under frozen heads', async ({ page }) => {
  const material = new MaterialPage(page)
  const channels = Object.fromEntries(
    ['wet', 'moss', 'dust', 'rim'].map((id) => [id, { title: id, type: 'grey', backdrop: 0 }]),
  )
  const ids = [
    'colour',
    'height',
    'roughness',
    'metallic',
    'occlusion',
    'opacity',
    'emission',
    ...Object.keys(channels),
  ]
  const cell = (id: string, layer: number) => ({
    source:
      id === 'colour' || id === 'emission'
        ? { value: `#${(100000 + layer * 1234).toString().slice(0, 6)}` }
        : { node: `n${layer % 5}.grey` },
    amount: 0.5,
  })
  await material.openEmpty('Large', {
    channels,
    nodes: Object.fromEntries(Array.from({ length: 5 }, (_, i) => [`n${i}`, { type: 'noise', params: { seed: i } }])),
    layers: Array.from({ length: 30 }, (_, layer) => ({
      kind: 'layer',
      id: `l${layer}`,
      name: `Layer number ${layer}`,
      cells: Object.fromEntries(ids.map((id) => [id, cell(id, layer)])),
    })),
  })
  expect(await material.rows()).toHaveLength(30)
  const head = material.cell('head', 'colour')
  const name = material.cell('l0', 'layer')
  const top = (await head.boundingBox())!.y
  // What is in view is made, and nothing else until it scrolls in.
  const made = (layer: string, channel: string) => material.cell(layer, channel).locator('img')
  await expect(made('l29', 'colour')).toHaveAttribute('data-changes', /[1-9]/)
  await material.sharp()
  await expect(made('l0', 'dust')).toHaveAttribute('data-changes', '0')
  await material.sheet.evaluate((grid) => grid.scrollTo(grid.scrollWidth, grid.scrollHeight))
  await expect(name).toBeInViewport()
  await expect(made('l0', 'dust')).toHaveAttribute('data-changes', '1')
  expect((await material.cell('head', 'wet').boundingBox())!.y).toBe(top)
  const frozen = (await name.boundingBox())!
  const grid = (await material.sheet.boundingBox())!
  expect(frozen.x).toBeLessThan(grid.x + 80)
  // The keyboard reaches both ends, and what it reaches is in sight.
  await name.click()
  await page.keyboard.press('End')
  await expect(material.cell('l0', 'wet')).toBeInViewport()
  for (let i = 0; i < 30; i++) await page.keyboard.press('ArrowUp')
  await expect(material.cell('head', 'wet')).toBeFocused()
  await expect(material.cell('l29', 'wet')).toBeInViewport()
})

test('a channel of one’s own is added, filled, shown and deleted', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Own channel')
  await page.getByRole('button', { name: 'Add a channel' }).click()
  await page.getByRole('textbox', { name: 'Name of the channel' }).fill('Wetness')
  await page.getByRole('button', { name: 'Add channel' }).click()
  await material.cell('base', 'wetness').dblclick()
  await material.type('Value', '0.8')
  await material.cell('head', 'wetness').click()
  await material.sharp()
  for (const v of await material.pixel(0.5, 0.45)) expect(Math.abs(v - 204)).toBeLessThanOrEqual(1)
  await material.settings.getByRole('button', { name: 'Delete channel Wetness' }).click()
  await expect(material.cell('head', 'wetness')).toBeHidden()
  await expect(material.stage).toHaveAttribute('data-shown', 'lit')
  await page.keyboard.press('Control+z')
  await expect(material.cell('base', 'wetness')).toHaveAttribute('aria-label', /amount/)

  // One that packings know begins with what is usual: 15 of 255.
  await page.getByRole('button', { name: 'Add a channel' }).click()
  await page.getByRole('button', { name: 'Strength', exact: true }).click()
  await material.cell('base', 'strength').dblclick()
  await expect(material.settings.getByRole('spinbutton', { name: 'Value' })).toHaveValue(/^0\.0588/)
  await page.getByRole('button', { name: 'Add a channel' }).click()
  await expect(page.getByRole('button', { name: 'Root', exact: true })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Strength', exact: true })).toBeHidden()
})
