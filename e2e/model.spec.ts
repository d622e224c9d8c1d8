import type { Locator, Page } from '@playwright/test'
import { expect, test } from '@playwright/test'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { barriers } from './support/barriers'
import { blockObj } from '#core/mesh/testing/shapes'
import type { Harness } from './harness/harness'
import type { HarnessServer } from './support/harness-server'
import { startHarness } from './support/harness-server'
import { MaterialPage } from './support/material-page'
import { newProject } from './support/new-project'

let harness: HarnessServer
test.beforeAll(async () => {
  harness = await startHarness()
})
test.afterAll(() => harness.stop())

/** A project of its own with a block that has overlapping sides; leads to the model's page. */
async function openBlock(page: Page, name: string): Promise<void> {
  await newProject(page, name)
  await page
    .getByLabel('Model files')
    .setInputFiles({ name: 'Block.obj', mimeType: 'text/plain', buffer: Buffer.from(blockObj(1, 2, 3)) })
  await expect(page.getByRole('grid', { name: 'Parts and kinds of mesh data' })).toBeVisible()
}

/** The text of an element, each time that it changes from now on. */
const changesOf = (place: Locator) =>
  place.evaluateHandle((element) => {
    const words: string[] = []
    new MutationObserver(() => words.push(element.textContent)).observe(element, {
      ...{ subtree: true, childList: true, characterData: true },
    })
    return words
  })

/** What waits until it is opened. */
function barrier(): { open: () => void; opened: Promise<void> } {
  let open!: () => void
  const opened = new Promise<void>((resolve) => (open = resolve))
  return { open, opened }
}

const cell = (page: Page, kind: string) => page.locator(`[data-cell="0 ${kind}"]`)

test('a bake goes by what was chosen, also where the page has older settings for a moment', async ({ page }) => {
  await openBlock(page, 'Model with late news')
  await page.getByRole('tab', { name: 'Settings' }).click()
  const sheet = page.getByRole('region', { name: 'Mesh data' })
  await page.getByRole('radio', { name: 'Draft' }).click()
  await expect(sheet).toContainText('1024 · 1 sample · 16 rays (draft)')
  // From now on the page hears of the model as it was.
  const address = (url: URL): boolean => /^\/models\/[^/]+\.data$/.test(url.pathname)
  const before = await page.request.get(`${new URL(page.url()).pathname}.data`)
  const [status, body, headers] = [before.status(), await before.body(), before.headers()]
  await page.route(address, (route) =>
    route.request().method() === 'GET' ? route.fulfill({ status, body, headers }) : route.continue(),
  )
  await page.getByLabel('Size', { exact: true }).selectOption('256')
  await expect(sheet).toContainText('1024 ·')
  const answered = page.waitForResponse((response) => (response.request().postData() ?? '').includes('"bake"'))
  await page.getByRole('button', { name: /^Bake what is missing/ }).click()
  await answered
  await page.unroute(address)
  await page.reload()
  await expect(page.getByRole('region', { name: 'Mesh data' })).toContainText('256 · 1 sample · 16 rays (draft)')
})

test('what was chosen stays shown where the page hears late of how it was before', async ({ page }) => {
  await openBlock(page, 'Model with a late load')
  await page.getByRole('tab', { name: 'Settings' }).click()
  await page.getByRole('radio', { name: 'Draft' }).click()
  await page.getByLabel('Size', { exact: true }).selectOption('256')
  const sheet = page.getByRole('region', { name: 'Mesh data' })
  await expect(sheet).toContainText('256 · 1 sample')
  // The load that follows a bake (the page asks first whether the server is up) has its answer, which comes only when it may.
  let follows = false
  await page.route('/up', (route) => {
    follows = true
    return route.continue()
  })
  const late = barrier()
  const may = barrier()
  await page.route(
    (url) => /^\/models\/[^/]+\.data$/.test(url.pathname),
    async (route) => {
      if (!follows || route.request().method() !== 'GET') return route.fallback()
      follows = false
      const response = await route.fetch()
      late.open()
      await may.opened
      // The page may have given it up.
      await route.fulfill({ response }).catch(() => {})
    },
  )
  await page.getByRole('button', { name: /^Bake what is missing/ }).click()
  await late.opened
  const news = page.waitForResponse(
    (response) =>
      response.request().method() === 'GET' && /^\/models\/[^/]+\.data/.test(new URL(response.url()).pathname),
  )
  await page.getByLabel('Size', { exact: true }).selectOption('128')
  await expect(sheet).toContainText('128 · 1 sample')
  await (await news).finished()
  const shown = await changesOf(sheet)
  may.open()
  await page.waitForTimeout(500)
  await expect(sheet).toContainText('128 · 1 sample')
  expect((await shown.jsonValue()).filter((words) => !words.includes('128 · 1 sample'))).toEqual([])
})

test('a model is brought in, its layout cured, and all its mesh data baked with one button', async ({ page }) => {
  const errors: string[] = []
  page.on('pageerror', (error) => errors.push(error.message))
  await openBlock(page, 'Model of a block')
  const check = page.getByRole('list', { name: 'Before you bake' })
  await expect(check).toContainText('pairs of triangles overlap')
  // Show points it out in the layout, which is drawn anew.
  const layout = page.getByRole('img', { name: /^Layout of block/ })
  await expect(layout).not.toHaveAttribute('data-drawn', '0')
  const before = await layout.getAttribute('data-drawn')
  await check
    .getByRole('button', { name: /^Show: / })
    .first()
    .click()
  await expect(layout).not.toHaveAttribute('data-drawn', before!)
  await check.getByRole('button', { name: 'Unwrap by angle: block' }).click()
  await expect(check).toContainText('The layout has nothing to cure', { timeout: 30_000 })
  await expect(check).toContainText('The layout was changed here')

  await page.getByRole('tab', { name: 'Settings' }).click()
  // What was chosen shows from then on, also between the server's answer and the page as it is after it.
  const sheet = page.getByRole('region', { name: 'Mesh data' })
  const shown = await changesOf(sheet)
  await page.getByLabel('Size', { exact: true }).selectOption('256')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await expect(sheet).toContainText('256 · 1 sample · 16 rays (draft)')
  const painted = async () => Number(await layout.getAttribute('data-drawn'))
  const paintedBefore = await painted()
  await page.getByRole('button', { name: /^Bake what is missing/ }).click()
  for (const kind of ['normal', 'occlusion', 'curvature', 'rounded-edge', 'position', 'thickness', 'material-id'])
    await expect(cell(page, kind)).toHaveAttribute('data-state', 'ready', { timeout: 40_000 })
  await expect(page.getByRole('button', { name: 'Bake what is missing' })).toBeDisabled()
  // The page has heard of it seven times; what is seen of the layout is the same. The choice of the size may have come late.
  expect((await painted()) - paintedBefore).toBeLessThan(2)
  // Rays matter to some kinds only.
  await page.getByRole('spinbutton', { name: 'Rays' }).fill('20')
  await page.keyboard.press('Enter')
  await expect(cell(page, 'occlusion')).toHaveAttribute('data-state', 'stale')
  await expect(cell(page, 'position')).toHaveAttribute('data-state', 'ready')
  const words = await shown.jsonValue()
  const since = words.slice(words.findIndex((one) => one.includes(' 256 · ')))
  expect(since.filter((one) => !one.includes(' 256 · '))).toEqual([])

  // The chosen cell is seen on the model, and goes out as a file with a record.
  await cell(page, 'curvature').click()
  await page.getByRole('radio', { name: 'Model' }).click()
  const view = page.getByRole('img', { name: /with Curvature/ })
  await expect(view).toHaveAttribute('data-reading', 'false')
  await expect(view).toHaveAttribute('data-complete', 'true')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('Block_block_curvature.exr')
  const record = await page.request.get((await page.getByRole('link', { name: 'Record' }).getAttribute('href'))!)
  expect(await record.json()).toMatchObject({ format: 'amber-grist/mesh-data', part: 'block', settings: { size: 256 } })
  expect(errors).toEqual([])
})

test('the sheet is worked with the keyboard, kinds are chosen, and the page has no barrier that axe finds', async ({
  page,
}) => {
  await openBlock(page, 'Model by keys')
  await page.getByRole('button', { name: 'Kinds' }).click()
  await page.getByRole('menuitem', { name: 'All of them' }).click()
  await expect(cell(page, 'leaks')).toBeVisible()
  // The menu gives the focus back to its button as it closes: only then is it ours to move.
  await expect(page.getByRole('button', { name: 'Kinds' })).toBeFocused()
  await cell(page, 'normal').focus()
  await page.keyboard.press('ArrowRight')
  await expect(cell(page, 'object-normal')).toBeFocused()
  await expect(cell(page, 'object-normal')).toHaveAttribute('aria-pressed', 'true')
  // After a reload the chosen kinds are still there.
  await page.reload()
  await expect(cell(page, 'leaks')).toBeVisible()
  for (const scheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme: scheme })
    expect(await barriers(page, scheme === 'light' ? 'all' : 'colours')).toEqual([])
  }
})

test('what is no model is refused in words; the stage of a material shows the project’s models', async ({ page }) => {
  await openBlock(page, 'Model on the stage')
  await page.getByRole('link', { name: 'Model on the stage' }).click()
  await page
    .getByLabel('Model files')
    .setInputFiles({ name: 'broken.obj', mimeType: 'text/plain', buffer: Buffer.from('v 0 0 x\nf 1 1 1\n') })
  await expect(page.getByRole('alert')).toContainText('broken.obj')
  await page.getByRole('link', { name: 'Open Material 1' }).click()
  await page.getByRole('radio', { name: 'Model', exact: true }).click()
  const model = page.getByRole('img', { name: 'Block, baked' })
  await expect(model).toHaveAttribute('data-reading', 'false')
  await page.getByRole('radio', { name: 'Plain' }).click()
  await expect(page.getByRole('img', { name: 'Block, plain' })).toBeVisible()
})

test('a material is put on a part, bakes what it lacks from the stage, is seen there, and is delivered with the model', async ({
  page,
}) => {
  // The worker stands back behind two browsers: on a busy machine a bake waits for its turn.
  test.slow()
  const material = new MaterialPage(page)
  await material.openEmpty('On a part', {
    domain: { kind: 'part' },
    nodes: {
      up: { type: 'axis-gradient', params: { axis: 'y', floor: 0 } },
      grain: { type: 'solid-noise', params: { size: 0.4 } },
    },
    layers: [
      {
        ...{ kind: 'layer', id: 'base', name: 'Base' },
        cells: {
          colour: { source: { node: 'up.gradient' } },
          height: { source: { node: 'grain.grey' } },
          roughness: { source: { node: 'grain.grey' } },
          metallic: { source: { value: 0.5 } },
        },
      },
    ],
  })
  const address = page.url()
  await expect(page.getByText('This project has no models yet.')).toBeVisible()
  await page.getByRole('navigation', { name: 'Where you are' }).getByRole('link', { name: 'On a part' }).click()
  await page
    .getByLabel('Model files')
    .setInputFiles({ name: 'Block.obj', mimeType: 'text/plain', buffer: Buffer.from(blockObj(1, 2, 1)) })
  const check = page.getByRole('list', { name: 'Before you bake' })
  await check.getByRole('button', { name: 'Unwrap by angle: block' }).click()
  await expect(check).toContainText('The layout has nothing to cure', { timeout: 30_000 })
  await page.getByRole('tab', { name: 'Settings' }).click()
  await page.getByLabel('Size', { exact: true }).selectOption('64')
  await page.getByRole('tab', { name: 'Materials' }).click()
  // A new one bears the part's name; another takes its place.
  const chosen = page.getByLabel('Material on block', { exact: true })
  await chosen.selectOption({ label: 'a new material' })
  await expect(chosen.locator('option:checked')).toHaveText('block')
  await chosen.selectOption({ label: 'Material 1' })
  const open = page.getByRole('link', { name: 'Open the material on block' })
  await expect(open).toHaveAttribute('href', new URL(address).pathname)
  await open.click()

  // A draft is made unasked, and the real one on request.
  await expect(page.getByText(/^▲ .*: normal, occlusion, position/)).toBeVisible()
  await page.getByRole('button', { name: 'Bake it now' }).click()
  await expect(page.getByText(/^▲ (Not baked yet|A draft|Stale)/)).toHaveCount(0, { timeout: 150_000 })
  await material.sharp()
  await expect(page.getByRole('img', { name: /, lit, on a part$/ })).toBeVisible()
  const [top, foot] = [await material.mean(0.5, 0.3, 0.03), await material.mean(0.5, 0.7, 0.03)]
  expect(top[1]).toBeGreaterThan(foot[1] + 30)
  const sizeOfStage = (await material.stage.boundingBox())!
  const onStage = await material.stage.screenshot()

  await page.goBack()
  await page.getByRole('tab', { name: 'Materials' }).click()
  await page.getByLabel('Width of the maps').selectOption('256')
  await page.getByRole('button', { name: 'Make 1 part' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('list', { name: 'Deliveries of this model' }).getByRole('link', { name: 'ZIP' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('Block-occlusion-rough-metal-y-up-256.zip')

  // An independent loader draws what was delivered as the stage did.
  const files = unzipSync(readFileSync(await download.path()))
  const glb = Object.entries(files).find(([name]) => name.endsWith('.glb'))![1]
  await page.goto(harness.address)
  await page.waitForFunction(() => 'harness' in window)
  const drawn = await page.evaluate(
    ([bytes, { width, height }]) =>
      (window as unknown as { harness: Harness }).harness.drawGlb(bytes, width, height, devicePixelRatio),
    [Buffer.from(glb).toString('base64'), sizeOfStage] as const,
  )
  const pictures = [Buffer.from(drawn.split(',')[1]!, 'base64'), onStage]
  const sizes = await Promise.all(pictures.map((png) => sharp(png).metadata()))
  // A canvas that ends within a pixel of the screen has one row more there.
  const [across, down] = [sizes.map(({ width }) => width), sizes.map(({ height }) => height)].map((all) =>
    Math.min(...all),
  )
  const [theirs, ours] = await Promise.all(pictures.map((png) => middleOf(png, across!, down!)))
  // Something is there, and it is the same.
  expect(new Set(ours).size).toBeGreaterThan(60)
  let sum = 0
  for (let i = 0; i < ours!.length; i++) sum += Math.abs(ours![i]! - theirs![i]!)
  expect(sum / ours!.length).toBeLessThanOrEqual(2)
})

/** Red, green and blue of the middle of a picture of so many pixels, where no button lies. */
function middleOf(png: Buffer, width: number, height: number): Promise<Buffer> {
  const [left, top] = [width * 0.2, height * 0.2].map(Math.round) as [number, number]
  return sharp(png)
    .extract({ left, top, width: width - 2 * left, height: height - 2 * top })
    .removeAlpha()
    .raw()
    .toBuffer()
}

/** The share of a canvas's height, in its middle, that is not as its upper corner there. */
async function highOf(canvas: Locator): Promise<number> {
  const png = await canvas.screenshot()
  const { width, height } = await sharp(png).metadata()
  const left = Math.round(width * 0.3)
  const [across, down] = [width - 2 * left, height]
  const { data } = await sharp(png)
    .extract({ left, top: 0, width: across, height: down })
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true })
  let high = 0
  for (let y = 0; y < down; y++) {
    const row = data.subarray(y * across, (y + 1) * across)
    if (row.some((v) => Math.abs(v - data[0]!) > 24)) high++
  }
  return high / down
}

test('the other parts of a model wear their materials on the stage; a part is shown alone, is told when pressed, and can be looked through', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  await material.openInDemo('Limewashed iron', { drawn: false })
  const canvas = page.locator('canvas[data-shown=lit]')
  // The spindle and the bolts.
  await expect(canvas).toHaveAttribute('data-dressed', '2', { timeout: 90_000 })
  await page.getByRole('button', { name: 'Only this part' }).click()
  await expect(page.getByRole('button', { name: 'Only this part' })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Only this part' }).click()
  // The hub stands in the middle of the stage, its spindle before it.
  await page.getByRole('button', { name: 'What lies here' }).click()
  const box = (await canvas.boundingBox())!
  await canvas.click({ position: { x: box.width / 2, y: box.height / 2 } })
  const here = page.getByRole('dialog', { name: 'The part here' })
  await expect(here).toContainText('Hand wheel, Spindle')
  await here.getByRole('button', { name: 'Show this material on it' }).click()
  await expect(page.getByLabel('Shown on')).toHaveValue(/ 1$/)
  // Alone it is as high as fits; the others take the place they had.
  await material.sharp()
  const among = await highOf(canvas)
  await page.getByRole('button', { name: 'Only this part' }).click()
  await material.sharp()
  const alone = await highOf(canvas)
  expect(alone).toBeGreaterThan(0.5)
  expect(alone).toBeLessThan(among)
  await page.getByRole('button', { name: 'Only this part' }).click()
  await material.sharp()
  expect(Math.abs((await highOf(canvas)) - among)).toBeLessThan(0.02)
  await page.getByLabel('Laid over the surface').selectOption('occlusion')
  await material.sharp()
  // The kind of surface is an edit like others.
  await page.getByRole('radio', { name: 'Blended' }).click()
  await expect(page.getByRole('button', { name: 'Undo Opacity: blended' })).toBeVisible()
  await page.getByRole('button', { name: 'Undo Opacity: blended' }).click()
  await material.sharp()
})

/** A wall in two tiles of UVs and two pieces, left and middle, and a gate to the right that leaves room for it in the first tile. */
const wallObj = `o Wall
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
v 1.1 0 0
v 2 0 0
v 2 1 0
v 1.1 1 0
v 2.2 0 0
v 3 0 0
v 3 1 0
v 2.2 1 0
vt 0.05 0.05
vt 0.45 0.05
vt 0.45 0.95
vt 0.05 0.95
vt 1.05 0.05
vt 1.95 0.05
vt 1.95 0.95
vt 1.05 0.95
vt 0.55 0.05
vt 0.95 0.05
vt 0.95 0.95
vt 0.55 0.95
f 1/1 2/2 3/3 4/4
f 5/5 6/6 7/7 8/8
o Gate
f 9/9 10/10 11/11 12/12
`

test('another material goes on pieces that are pressed on the model, parts share files, and tiles are chosen on the stage', async ({
  page,
}) => {
  test.slow()
  const material = new MaterialPage(page)
  const plain = (name: string, colour: string) => ({
    ...{ format: 'amber-grist/material', version: 2, name, domain: { kind: 'part' } },
    layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { colour: { source: { value: colour } } } }],
  })
  const json = (value: object) => strToU8(JSON.stringify(value))
  const model = { name: 'Walls', mesh: 'models/walls.obj', settings: { size: 64, samples: 1, rays: 4 }, parts: [] }
  const zip = zipSync({
    'Red.json': json(plain('Red', '#c02010')),
    'Blue.json': json({
      ...plain('Blue', '#1030c0'),
      nodes: {
        disc: { type: 'shape' },
        sign: {
          ...{ type: 'project', name: 'Sign', inputs: { source: 'disc.grey' } },
          params: { way: 'planar', repeat: 'once', size: 0.4, x: 1.5, y: 0.5, depth: 0.5 },
        },
      },
    }),
    'models/walls.obj': strToU8(wallObj),
    'project.json': json({ format: 'amber-grist/project', version: 1, name: 'Walls', models: [model] }),
  })
  await newProject(page, 'Walls in tiles')
  await page
    .getByLabel('File of materials')
    .setInputFiles({ name: 'walls.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) })
  await page.getByRole('list', { name: 'Models' }).getByRole('link', { name: 'Walls', exact: true }).click()
  await page.getByRole('tab', { name: 'Materials' }).click()
  // On a slow line a choice is still on its way when the next one is made: none is lost.
  await page.route('**/models/**', async (route) => {
    if (route.request().method() === 'POST') await page.waitForTimeout(300)
    await route.continue()
  })
  for (const part of ['Wall', 'Gate'])
    await page.getByLabel(`Material on ${part}`, { exact: true }).selectOption({ label: 'Red' })
  await page.getByLabel('Files of Gate').selectOption({ label: 'in the files of Wall' })
  await expect(page.getByText('its own files, with Gate')).toBeVisible()
  await page.unroute('**/models/**')
  for (const part of ['Wall', 'Gate'])
    await expect(page.getByRole('link', { name: `Open the material on ${part}` })).toBeVisible()

  // Pressing the right piece picks it, pressing it again takes it out.
  await page.getByRole('button', { name: 'Another material on IDs of Wall' }).click()
  const ids = page.getByRole('group', { name: 'IDs' })
  await expect(ids.getByRole('button')).toHaveText(['1', '2'])
  const view = page.getByRole('img', { name: /^Walls with/ })
  await expect(view).toHaveAttribute('data-reading', 'false')
  const { width, height } = (await view.boundingBox())!
  const press = (): Promise<void> => view.click({ position: { x: width * 0.55, y: height * 0.5 } })
  await press()
  await expect(ids.getByRole('button', { pressed: true })).toHaveText(['2'])
  await expect(view).toHaveAttribute('data-marked', '2')
  await press()
  await expect(view).toHaveAttribute('data-marked', '0')
  await press()
  await page.getByLabel('Material on them').selectOption({ label: 'Blue' })
  await page.getByRole('button', { name: 'Put it on 1 piece' }).click()
  await expect(page.getByLabel('Material on Piece 2 of Wall', { exact: true })).toHaveValue(/./)

  // Where it lies on IDs, what lies on all of the part shows elsewhere: the left piece is red, the one in the middle blue. A material
  // that the server does not give at first is asked for again.
  let asked = 0
  await page.route('**/revisions/*', (route) => (asked++ === 0 ? route.abort() : route.continue()))
  await page.getByRole('link', { name: 'Open the material on Piece 2 of Wall' }).click()
  await material.awake()
  await page.getByLabel('Shown on').selectOption({ label: 'Walls, Wall, tile 1002 · this material on IDs' })
  await material.sharp()
  // The other tile, the gate, and on this one what lies over it.
  await expect(page.locator('canvas[data-dressed="4"]')).toBeVisible({ timeout: 120_000 })
  const isRed = async (across: number): Promise<boolean> => {
    const [red, , blue] = await material.mean(across, 0.5, 0.02)
    return red > blue
  }
  await expect.poll(async () => [await isRed(0.3), await isRed(0.5), await isRed(0.68)]).toEqual([true, false, true])

  // A checker in a UV set is grey over the tile that is worked on.
  const blueness = async (): Promise<number> => {
    const [red, , blue] = await material.mean(0.5, 0.5, 0.02)
    return blue - red
  }
  expect(await blueness()).toBeGreaterThan(90)
  await page.getByLabel('Laid over the surface').selectOption({ label: 'checker in UV set 1' })
  await expect.poll(blueness).toBeLessThan(60)
  await page.getByLabel('Laid over the surface').selectOption({ label: 'nothing over it' })
  await expect.poll(blueness).toBeGreaterThan(90)

  // A projection is dragged along the wall, and put where the part is pressed.
  await page.getByRole('button', { name: 'Whole graph' }).click()
  await material.nodes.getByText('Sign', { exact: true }).click()
  const frame = page
    .getByRole('group', { name: /^Projection Sign/ })
    .locator('polygon')
    .last()
  const field = (name: string) => material.settings.getByRole('spinbutton', { name, exact: true })
  const { x, y, width: wide, height: tall } = (await frame.boundingBox())!
  await page.mouse.move(x + wide / 2, y + tall / 2)
  await page.mouse.down()
  await page.mouse.move(x + wide, y + tall / 2, { steps: 4 })
  await page.mouse.up()
  // Half of its width of 0.4 m.
  await expect.poll(async () => Math.abs(Number(await field('X').inputValue()) - 1.7)).toBeLessThan(0.03)
  await page.getByRole('button', { name: 'Put Sign where you press' }).click()
  const stage = (await material.stage.boundingBox())!
  await page.mouse.click(stage.x + stage.width / 2, stage.y + stage.height / 2)
  await expect.poll(async () => Math.abs(Number(await field('X').inputValue()) - 1.5)).toBeLessThan(0.1)

  await page.getByRole('navigation', { name: 'Where you are' }).getByRole('link', { name: 'Walls in tiles' }).click()
  await page.getByRole('list', { name: 'Models' }).getByRole('link', { name: 'Walls', exact: true }).click()
  await page.getByRole('tab', { name: 'Materials' }).click()
  await page.getByLabel('Width of the maps').selectOption('256')
  await page.getByRole('button', { name: 'Make 2 parts' }).click()
  const made = page.getByRole('list', { name: 'Deliveries of this model' })
  await expect(made).toContainText('2 file sets', { timeout: 90_000 })

  // One material of both looks as they did.
  await page.getByRole('button', { name: 'Put together in layers' }).click()
  await page.waitForURL(/documents/)
  await material.awake()
  await expect(page.getByRole('gridcell', { name: 'Mask of Blue: 1 entry' })).toBeVisible()
  await page.getByLabel('Shown on').selectOption({ label: 'Walls, Wall, tile 1002 · this material' })
  await material.sharp()
  await expect.poll(async () => [await isRed(0.3), await isRed(0.5), await isRed(0.68)]).toEqual([true, false, true])
})
