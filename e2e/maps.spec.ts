import { expect, test } from '@playwright/test'
import { barriers } from './support/barriers'
import { readFileSync } from 'node:fs'
import { MapsPage, planesOf } from './support/maps-page'
import { MaterialPage } from './support/material-page'

/** Noise for height and roughness, half of the tile metal, and a hole. */
const members = {
  nodes: {
    n: { type: 'noise', params: { cells: [4, 4], octaves: 3 } },
    stripes: { type: 'stripes', params: {} },
  },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      mask: [],
      cells: {
        colour: { source: { value: '#8a7a60' } },
        height: { source: { node: 'n.grey' } },
        roughness: { source: { node: 'n.grey' } },
        opacity: { source: { node: 'stripes.grey' } },
      },
    },
  ],
}

async function openMaps(page: MaterialPage, name: string, more: object = members): Promise<MapsPage> {
  await page.openEmpty(name, more as Record<string, unknown>)
  const maps = new MapsPage(page.page)
  await maps.open()
  await expect(maps.findings).toBeVisible()
  return maps
}

test('packing by mouse and by keys: dragged, linked, cleared, undone after a reload, shared as a file', async ({
  page,
}) => {
  const maps = await openMaps(new MaterialPage(page), 'Packing sheet')
  await page.getByLabel('Packing', { exact: true }).selectOption({ label: 'Metal with gloss in alpha' })
  // A channel from the tray into an empty slot, a slot onto another, linked with Alt.
  await maps.drag(maps.channel('Roughness'), maps.slot('normal', 'A'))
  await expect(maps.slot('normal', 'A')).toHaveAccessibleName('normal A: Roughness')
  await expect(page.getByRole('status', { name: 'About the packing' })).toContainText('Copied as')
  await maps.drag(maps.slot('occlusion', 'R').locator('img'), maps.slot('metal-gloss', 'B'), true)
  await expect(maps.slot('metal-gloss', 'B')).toHaveAccessibleName('metal-gloss B: the same as occlusion R')

  // F6 goes round the panes.
  await maps.slot('occlusion', 'R').focus()
  const pane = () =>
    page.evaluate(() => document.activeElement?.closest('main section[aria-label]')?.getAttribute('aria-label'))
  const panes: unknown[] = []
  for (let i = 0; i < 4; i++) {
    await page.keyboard.press('F6')
    panes.push(await pane())
  }
  expect(new Set(panes)).toEqual(new Set(['Files', 'Deliveries', 'Stage', 'Before delivery']))

  // Keys alone: along the row, a constant by its editor, cleared, a new file, a deleted one.
  await maps.slot('emission', 'B').focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Enter')
  const editor = page.getByRole('dialog', { name: 'emission, A' })
  await editor.getByLabel('What emission A holds').selectOption('a constant')
  await editor.getByRole('spinbutton').fill('1/4')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await expect(maps.slot('emission', 'A')).toHaveAccessibleName('emission A: constant 0.25')
  await expect(maps.slot('emission', 'A')).toBeFocused()
  await page.keyboard.press('Delete')
  await expect(maps.slot('emission', 'A')).toHaveAccessibleName('emission A: empty')
  await page.keyboard.press('Home')
  await page.keyboard.press('Delete')
  expect(await maps.files()).toEqual(['colour', 'metal-gloss', 'normal', 'occlusion'])
  await maps.drag(maps.channel('Height'), page.getByRole('gridcell', { name: 'New file' }))
  await expect.poll(() => maps.files()).toEqual(['colour', 'metal-gloss', 'normal', 'occlusion', 'height'])

  // How it is written, and where a format cannot hold what is in it.
  await page.locator('[data-at="height/form"]').dblclick()
  await expect(page.getByLabel('Format of height')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByLabel('Format of height')).toBeHidden()
  await page.locator('[data-at="height/form"]').press('Enter')
  await page.getByLabel('Format of height').selectOption('EXR')
  await expect(page.locator('[data-at="height/form"]')).toHaveAccessibleName('height: EXR half, metres')
  await page.getByLabel('Format of height', { exact: true }).selectOption('DDS')
  await page.getByLabel('Blocks of height').selectOption({ label: 'BC4, one grey' })
  await page.getByLabel('With its mips').check()
  await expect(page.locator('[data-at="height/form"]')).toHaveAccessibleName('height: DDS BC4, raw, with mips')
  await page.keyboard.press('Escape')
  await expect(page.getByLabel('Format of height', { exact: true })).toBeHidden()
  await page.locator('[data-at="colour/form"]').press('Enter')
  await page.getByLabel('Format of colour').selectOption({ label: 'JPEG (changes values)' })
  await expect(page.getByText('A JPEG has no alpha').first()).toBeVisible()
  await page.keyboard.press('Escape')

  // Names: two alike are told, and nothing can be made then.
  const pattern = page.getByRole('textbox', { name: 'Name pattern' })
  await pattern.fill('{material}')
  // The rows that clash are marked, each; a field goes in where the caret is; an empty pattern keeps the last one.
  await expect(page.getByText('Another file would be called the same')).toHaveCount(4)
  await expect(page.getByRole('button', { name: /^Make 5 files/ }).first()).toBeDisabled()
  await pattern.fill('')
  await expect(page.getByRole('alert').filter({ hasText: 'An empty pattern names no file' })).toBeVisible()
  await page.getByRole('button', { name: '{material}', exact: true }).click()
  await expect(pattern).toHaveValue('{material}')
  await page.keyboard.press('Home')
  await page.getByRole('button', { name: '{map}', exact: true }).click()
  await expect(pattern).toHaveValue('{map}{material}')
  await pattern.fill('{material}_{map}_{size}')
  await expect(page.getByRole('rowheader', { name: 'File Material-1_normal_1024.png' })).toBeVisible()

  const saved = page.getByRole('status', { name: 'Packing saved' })
  await expect(saved).toContainText('● saved')
  await page.reload()
  await expect.poll(() => maps.files()).toEqual(['colour', 'metal-gloss', 'normal', 'occlusion', 'height'])
  // Three steps of the pattern, four of the form, the new file.
  for (let i = 0; i < 8; i++) await page.keyboard.press('Control+z')
  await expect(pattern).toHaveValue('{material}_{map}')
  await expect.poll(() => maps.files()).toEqual(['colour', 'metal-gloss', 'normal', 'occlusion'])

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    (async () => {
      await page.getByRole('button', { name: 'What to do with the packing' }).click()
      await page.getByRole('menuitem', { name: 'Share as a JSON file' }).click()
    })(),
  ])
  const shared = JSON.parse(readFileSync(await download.path(), 'utf8')) as { files: { bits: number }[] }
  const give = (json: object) =>
    page
      .getByLabel('Packing file')
      .setInputFiles({ name: 'own.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(json)) })
  await give({ ...shared, files: [{ ...shared.files[0], bits: 32 }] })
  await expect(page.getByRole('status', { name: 'About the packing' })).toContainText('PNG has no 32-bit form')
  await give({ ...shared, title: 'From a colleague' })
  const chosen = page.getByLabel('Packing', { exact: true }).locator('option:checked')
  await expect(chosen).toHaveText('From a colleague')
  await expect(page.locator('optgroup', { has: page.locator('option:checked') })).toHaveAttribute(
    'label',
    'Of this project',
  )
})

test('packing: slots change places, names are kept apart, menus, and the first change undone', async ({ page }) => {
  const maps = await openMaps(new MaterialPage(page), 'Packing by hand')
  const chosen = page.getByLabel('Packing', { exact: true }).locator('option:checked')
  const shipped = await chosen.textContent()
  // Dragged onto one another two slots change places; undone, the copy that this made is gone too.
  await maps.drag(maps.slot('occlusion-rough-metal', 'R').locator('img'), maps.slot('occlusion-rough-metal', 'B'))
  await expect(maps.slot('occlusion-rough-metal', 'R')).toHaveAccessibleName(/Metallic/)
  await expect(maps.slot('occlusion-rough-metal', 'B')).toHaveAccessibleName(/occlusion/i)
  await expect(page.getByRole('status', { name: 'Packing saved' })).toContainText('● saved')
  await page.keyboard.press('Control+z')
  await expect(chosen).toHaveText(shipped!)
  await expect(page.locator('optgroup[label="Of this project"]')).toHaveCount(0)
  await page.reload()
  await expect(chosen).toHaveText(shipped!)
  // The editor opens by its button; a name that is taken keeps it open and says so, a press elsewhere takes a good one.
  await page.getByRole('button', { name: 'Edit emission' }).click()
  const name = page.getByRole('textbox', { name: '{map}' })
  await name.fill('normal')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert').filter({ hasText: 'There is a file “normal” already' })).toBeVisible()
  await name.fill('glow')
  await page.getByRole('heading', { name: 'Files' }).click()
  await expect.poll(() => maps.files()).toContain('glow')
  await expect(name).toBeHidden()
  // The menu of the right button, with the keys beside the words.
  await maps.slot('normal', 'G').click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Invert I' }).click()
  await expect(maps.slot('normal', 'G')).toHaveAccessibleName(/inverted/)
  // Channels that are made on the way out, and frames that lack their dial.
  await page.getByLabel('Packing', { exact: true }).selectOption('specular-gloss')
  await expect(maps.slot('specular-gloss', 'R')).toHaveAccessibleName(/Specular/)
  await expect(page.getByRole('button', { name: /^Make 5 files/ })).toBeEnabled()
  await page.getByLabel('Packing', { exact: true }).selectOption('frames')
  await expect(page.getByRole('combobox', { name: 'Dial that frames turn' })).toContainText(
    'Time, not in this material',
  )
  await expect(page.getByRole('button', { name: /^Make 1 file/ })).toBeDisabled()
  await page.getByRole('button', { name: 'One picture instead of frames' }).click()
  await expect(page.getByRole('button', { name: /^Make 1 file/ })).toBeEnabled()
})

test('check, marks, spreads, as delivered, and two deliveries compared', async ({ page }) => {
  const maps = await openMaps(new MaterialPage(page), 'Checked')
  // A file without alpha loses the holes: told, and shown where.
  await maps.slot('colour', 'A').focus()
  await page.keyboard.press('Delete')
  const dropped = maps.findings.getByRole('listitem').filter({ hasText: 'Opacity arrives' })
  await expect(dropped).toContainText('no file holds it')
  await dropped.getByRole('button', { name: /^Show/ }).click()
  await expect(page.getByRole('list', { name: 'Marks' }).getByRole('listitem').first()).toBeVisible()
  await expect(maps.stage).toHaveAttribute('data-shown', 'opacity')
  await dropped.getByRole('button', { name: /^Show/ }).click()
  await expect(page.getByRole('list', { name: 'Marks' })).toBeHidden()

  await maps.tab(/^Histogram/)
  await page.getByLabel('Channel', { exact: true }).selectOption('Roughness')
  await expect(page.getByRole('img', { name: /^Roughness: / })).toBeVisible()
  await expect(page.getByText('no mirror: 0.02 and above')).toBeVisible()

  // A file as it is, in its own numbers; a mip of it beside the source.
  await maps.slot('occlusion-rough-metal', 'G').focus()
  await page.keyboard.press('Space')
  await expect(maps.stage).toHaveAttribute('data-shown', 'slot:1:occlusion-rough-metal')
  await expect(page.getByText('occlusion-rough-metal: PNG 8-bit, raw, dithered')).toBeVisible()
  await page.getByLabel('What is shown').selectOption('roughness')
  await page.getByLabel('Mip level').selectOption('mip 3: 32 × 32')
  await expect(page.getByText('as packed, 32 × 32')).toBeVisible()
  // What is lost in it: in decibels beside every file, and as a picture.
  await expect(page.getByRole('row', { name: 'normal', exact: true })).toContainText(/\d\d\.\d dB|exact/)
  await page.getByRole('radio', { name: 'Difference' }).click()
  await expect(page.getByText(/dB · what is lost × \d+/)).toBeVisible()
  await page.getByRole('radio', { name: 'Beside' }).click()
  await expect(page.getByText('as packed, 32 × 32')).toBeVisible()

  // Two deliveries that differ in one map only.
  await maps.size(256)
  await maps.make()
  await expect(maps.row('#1')).toBeVisible({ timeout: 60_000 })
  await maps.slot('normal', 'G').focus()
  await page.keyboard.press('i')
  await expect(page.getByRole('status', { name: 'Packing saved' })).toContainText('● saved')
  await maps.make()
  await expect(maps.row('#2')).toBeVisible({ timeout: 60_000 })
  await maps
    .row('#2')
    .getByRole('button', { name: /^Compare/ })
    .click()
  const dialog = page.getByRole('dialog', { name: 'Compare deliveries' })
  await expect(dialog.getByRole('listitem').filter({ hasText: 'differs' })).toHaveText(/normal/)
  await expect(dialog.getByRole('listitem').filter({ hasText: 'same' })).toHaveCount(3)
  await expect(dialog.getByRole('status', { name: 'Difference' })).toContainText('256 × 256')
  // As much as fits to begin with: an inverted plane differs by up to all there is.
  await expect(dialog.getByRole('img', { name: /^Difference of normal, [14] times/ })).toBeVisible()
  await dialog.getByRole('radio', { name: '× 256' }).click()
  await expect(dialog.getByRole('img', { name: /256 times/ })).toBeVisible()
  await dialog.getByRole('radio', { name: 'Wiper' }).click()
  await expect(dialog.getByRole('img', { name: /^normal (before|after)/ })).toHaveCount(2)
  const seam = dialog.getByRole('slider', { name: /^Seam/ })
  await seam.focus()
  await page.keyboard.press('Home')
  await expect(dialog.getByRole('img', { name: /before/ })).toHaveCSS('clip-path', /100%/)
  await dialog.getByRole('radio', { name: 'Before', exact: true }).click()
  await expect(dialog.getByRole('img', { name: 'normal before' })).toBeVisible()
  await page.keyboard.press('Escape')

  // Its files on the stage, read back from the ZIP.
  await maps
    .row('#1')
    .getByRole('button', { name: /^Look at/ })
    .click()
  await expect(page.getByText('delivery #1, 256 × 256')).toBeVisible()
  await expect(page.getByText('◌ reading')).toBeHidden()
  const files = await maps.download(maps.row('#1'))
  const [red] = planesOf(files, 'Material-1_colour.png')
  // #8a7a60 is what was put in.
  expect(new Set([...red!].map((v) => Math.round(v * 255)))).toEqual(new Set([0x8a]))
})

test('two tabs on one packing: neither change is lost', async ({ page, context }) => {
  const maps = await openMaps(new MaterialPage(page), 'Two tabs, one packing')
  await maps.slot('normal', 'G').focus()
  await page.keyboard.press('i')
  const saved = page.getByRole('status', { name: 'Packing saved' })
  await expect(saved).toContainText('● saved')
  const other = await context.newPage()
  await other.goto(page.url())
  const there = new MapsPage(other)
  await expect(there.slot('normal', 'G')).toHaveAccessibleName(/inverted/)
  await there.slot('colour', 'A').focus()
  await other.keyboard.press('Delete')
  await expect(other.getByRole('status', { name: 'Packing saved' })).toContainText('● saved')
  await maps.slot('emission', 'G').focus()
  await page.keyboard.press('i')
  await expect(page.getByRole('status', { name: 'About the packing' })).toContainText('Another tab changed')
  await expect(maps.slot('colour', 'A')).toHaveAccessibleName('colour A: empty')
  await page.keyboard.press('Control+z')
  await expect(maps.slot('emission', 'G')).toHaveAccessibleName(/inverted/)
  await expect(saved).toContainText('● saved')
})

test('axe finds nothing on the maps screen in either theme', async ({ page }) => {
  const maps = await openMaps(new MaterialPage(page), 'Maps, read aloud')
  for (const [theme, which] of [
    ['linen', 'all'],
    ['soot', 'colours'],
  ] as const) {
    if (theme === 'soot') await page.getByRole('button', { name: 'Use the soot theme' }).click()
    expect(await barriers(page, which)).toEqual([])
    for (const tab of [/^Histogram/, /^Make/]) {
      await maps.tab(tab)
      expect(await barriers(page, which, '[role=tabpanel][data-state=active]')).toEqual([])
    }
    await maps.slot('normal', 'G').focus()
    await page.keyboard.press('Enter')
    await expect(page.getByRole('dialog', { name: 'normal, G' })).toBeVisible()
    expect(await barriers(page, which, '[role=dialog]')).toEqual([])
    await page.keyboard.press('Escape')
    await maps.tab(/^Check/)
  }
})
