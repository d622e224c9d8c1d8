import { expect, test } from '@playwright/test'
import { MaterialPage } from './support/material-page'

test.setTimeout(240_000)

test('two layers from an empty project by mouse, on the stage, after a reload, and undone', async ({ page }) => {
  const problems: string[] = []
  page.on('pageerror', (error) => problems.push(error.message))
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()))
  const material = new MaterialPage(page)
  await material.openEmpty('By mouse')
  await material.flat()
  await material.show('colour')
  await material.sharp()
  const plain = await material.mean(0.5, 0.5, 0.5)

  // A second layer, red, under a mask of noise with a hard edge.
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: /Layer of a plain colour/ }).click()
  expect(await material.rows()).toEqual(['layer', 'base'])
  await material.select('layer', 'colour')
  await material.settings.getByRole('textbox', { name: 'Colour' }).fill('#c03020')
  await page.keyboard.press('Enter')
  await material.select('layer', 'mask')
  await material.settings.getByRole('button', { name: 'New node' }).click()
  await material.takeNode('noise')
  await expect(material.nodes.locator('[data-node=noise]')).toBeVisible()
  // From the noise's port onto empty ground: a threshold is offered, wired in, and goes on into the mask.
  const port = material.nodes.getByLabel('Output grey, grey')
  const ground = (await material.nodes.boundingBox())!
  await port.hover()
  await page.mouse.down()
  await page.mouse.move(ground.x + ground.width / 2, ground.y + ground.height - 50, { steps: 8 })
  await page.mouse.up()
  await expect(page.getByText('What fits the output of a grey wire, best first')).toBeVisible()
  await material.takeNode('threshold')
  await expect(material.nodes.locator('[data-node=threshold]')).toBeVisible()
  await material.nodes.locator('[data-node=threshold]').getByLabel('Output result, grey').hover()
  await page.mouse.down()
  const into = (await material.nodes.getByLabel('Into Layer, mask').boundingBox())!
  await page.mouse.move(into.x + into.width / 2, into.y + into.height / 2, { steps: 8 })
  await page.mouse.up()
  await material.sharp()

  // Both colours are on the stage: the base, and the red where the mask is.
  const { data } = await material.picture()
  const near = (r: number, g: number, b: number): number => {
    let found = 0
    for (let i = 0; i < data.length; i += 3)
      if (Math.abs(data[i]! - r) < 12 && Math.abs(data[i + 1]! - g) < 12 && Math.abs(data[i + 2]! - b) < 12) found++
    return found / (data.length / 3)
  }
  expect(near(0xc0, 0x30, 0x20)).toBeGreaterThan(0.03)
  expect(near(plain[0], plain[1], plain[2])).toBeGreaterThan(0.03)

  await material.saved()
  const before = await material.drawn()
  expect(before['layer:layer:mask']).toBeGreaterThan(0)
  await page.reload()
  await material.awake()
  await material.flat()
  await material.show('colour')
  await material.sharp()
  const again = await material.picture()
  let differing = 0
  for (let i = 0; i < data.length; i++) if (Math.abs(data[i]! - again.data[i]!) > 2) differing++
  expect(differing / data.length).toBeLessThan(0.02)
  // Undo, all the way back to the one layer there was.
  const undo = page.getByRole('button', { name: /^Undo ./ })
  while ((await undo.count()) > 0) await undo.click()
  expect(await material.rows()).toEqual(['base'])
  await material.sharp()
  const undone = await material.mean(0.5, 0.5, 0.5)
  for (let c = 0; c < 3; c++) expect(Math.abs(undone[c]! - plain[c]!)).toBeLessThan(1)
  await material.saved()
  expect(problems).toEqual([])
})

test('two layers by keyboard alone', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('By keyboard')
  const focused = () =>
    page.evaluate(
      () => document.activeElement?.getAttribute('data-at') ?? document.activeElement?.getAttribute('aria-label'),
    )
  const press = async (...keys: string[]): Promise<void> => {
    for (const key of keys) await page.keyboard.press(key)
  }
  // F6 goes from pane to pane; the first is the sheet.
  for (let i = 0; i < 6 && (await focused()) !== 'base/layer'; i++) await press('F6')
  expect(await focused()).toBe('base/layer')
  // A layer above, its colour by typing.
  await press('l')
  await expect.poll(focused).toBe('layer/layer')
  await press('ArrowRight')
  expect(await focused()).toBe('layer/colour')
  await press('Enter')
  // The keyboard lands on what is put in.
  await expect.poll(focused).toBe('Colour')
  await page.keyboard.type('#2050a0')
  await press('Enter', 'Escape')
  await expect.poll(focused).toBe('layer/colour')
  // Its mask: from the cell to the mask, a new node in it.
  await press('Home')
  expect(await focused()).toBe('layer/mask')
  await press('Enter')
  const word = () => page.evaluate(() => document.activeElement?.textContent)
  await expect.poll(word).toBe(' Value')
  await press('Tab')
  expect(await word()).toBe(' New node')
  await press('Enter')
  await expect(page.getByRole('dialog', { name: 'Add a node' })).toBeVisible()
  await page.keyboard.type('cells')
  await press('Enter')
  await expect(page.getByRole('dialog', { name: 'Add a node' })).toBeHidden()
  await expect(material.settings.getByRole('heading', { name: 'Cells' })).toBeVisible()
  // Renamed, moved below the base and back, off and on.
  for (let i = 0; i < 8 && !/^layer\//.test((await focused()) ?? ''); i++) await press('F6')
  await press('Home', 'ArrowRight')
  expect(await focused()).toBe('layer/layer')
  await press('F2')
  await page.keyboard.type('Lagoon')
  await press('Enter')
  await expect(material.cell('layer', 'layer')).toContainText('Lagoon')
  await press('Alt+ArrowDown')
  expect(await material.rows()).toEqual(['base', 'layer'])
  await expect.poll(focused).toBe('layer/layer')
  await press('Alt+ArrowUp')
  expect(await material.rows()).toEqual(['layer', 'base'])
  await press('o')
  await expect(material.cell('layer', 'layer')).toContainText('layer, off')
  await press('o')
  // Its colour alone on the stage by the channel's head.
  await press('ArrowRight', 'ArrowUp')
  expect(await focused()).toBe('head/colour')
  await press('Enter')
  await expect(material.stage).toHaveAttribute('data-shown', 'colour')
  await material.sharp()
  const [r, , b] = await material.mean(0.5, 0.5, 0.3)
  expect(b).toBeGreaterThan(r - 30)
  await press('Control+z', 'Control+z', 'Control+Shift+z')
  await material.saved()
  // Space on a cell shows it large, Delete clears it.
  await press('ArrowDown', 'Space')
  await expect(material.stage).toHaveAttribute('data-shown', 'cell:layer:colour')
  await material.sharp()
  expect(await material.pixel(0.5, 0.5)).toEqual([0x20, 0x50, 0xa0])
  await press('Space', 'Delete')
  await expect(material.cell('layer', 'colour')).toHaveAttribute('aria-label', /empty$/)
})

test('a constant reads on the stage as what it is', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Constants')
  await material.select('base', 'colour')
  const colour = material.settings.getByRole('textbox', { name: 'Colour' })
  for (const mode of ['Flat', 'Shape'])
    for (const hex of ['#777777', '#3c78b4']) {
      await colour.fill(hex)
      await colour.press('Enter')
      await page.getByRole('radio', { name: mode }).click()
      await material.show('colour')
      await material.sharp()
      const wanted = [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16))
      const seen = await material.pixel(0.5, 0.45)
      for (let c = 0; c < 3; c++) expect(Math.abs(seen[c]! - wanted[c]!)).toBeLessThanOrEqual(1)
    }
  // Grey data too: 0.25 is a quarter, not a quarter of light.
  await material.select('base', 'roughness')
  await material.type('Value', '1/4')
  await material.show('roughness')
  await material.sharp()
  for (const v of await material.pixel(0.5, 0.45)) expect(Math.abs(v - 64)).toBeLessThanOrEqual(1)
  // A colour is picked from the stage as the channel holds it, whatever is shown.
  await material.cell('base', 'emission').dblclick()
  await material.settings.getByRole('button', { name: 'Colour: pick from the stage' }).click()
  await material.stage.click()
  await expect(material.settings.getByRole('textbox', { name: 'Colour' })).toHaveValue('#3c78b4')
  // The probe names every channel's value; the ground around is sRGB 119.
  const box = (await material.stage.boundingBox())!
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.45)
  await expect(page.locator('[data-probe]')).toContainText(/colour 60 120 180.*rough \.25.*metal 0/)
  for (const v of await material.pixel(0.02, 0.5)) expect(Math.abs(v - 119)).toBeLessThanOrEqual(1)
})

/** White in the middle, falling to black at a radius. */
const dome = (radius: number) => ({
  run: { type: 'ramp', params: { shape: 'radial', radius } },
  dome: { type: 'invert', inputs: { source: 'run.grey' } },
})

test('a bump lit from above is brighter on top', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Bump', {
    heightMetres: 0.3,
    nodes: dome(0.4),
    layers: [
      {
        kind: 'layer',
        id: 'base',
        name: 'Base',
        cells: {
          colour: { source: { value: '#9a9a9a' } },
          roughness: { source: { value: 0.9 } },
          height: { source: { node: 'dome.result' } },
        },
      },
    ],
  })
  await material.flat()
  await material.sharp()
  // Height rises to the middle, so the upper half faces up.
  const centre = await material.probeHeight(0.5, 0.5)
  expect(centre).toBeGreaterThan(await material.probeHeight(0.5, 0.3))
  const [above] = await material.mean(0.5, 0.38, 0.05)
  const [below] = await material.mean(0.5, 0.62, 0.05)
  expect(above).toBeGreaterThan(below + 15)
  // The same on a sphere: its own top is lit, and the plane stands out in relief.
  await page.getByRole('radio', { name: 'Shape' }).click()
  await material.sharp()
  expect((await material.mean(0.5, 0.2, 0.05))[0]).toBeGreaterThan((await material.mean(0.5, 0.8, 0.05))[0] + 15)
  await page.getByLabel('Shape', { exact: true }).selectOption('plane')
  await material.sharp()
  const raised = await material.picture()
  await page.getByRole('button', { name: 'Light' }).click()
  await page.getByLabel('Height moves').selectOption('nothing')
  await page.keyboard.press('Escape')
  await material.sharp()
  const level = await material.picture()
  const outline = ({ data, width, height }: typeof raised): number => {
    let found = 0
    for (let i = 0; i < width * height; i++) if (Math.abs(data[i * 3]! - 119) > 3) found++
    return found
  }
  expect(Math.abs(outline(raised) - outline(level))).toBeGreaterThan(500)
})

test('emission above white glows', async ({ page }) => {
  const material = new MaterialPage(page)
  const layers = (emission: object) => [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      cells: { colour: { source: { value: '#101010' } }, roughness: { source: { value: 1 } }, emission },
    },
  ]
  await material.openEmpty('Lit sign', {
    nodes: dome(0.12),
    emissionStrength: 1,
    layers: layers({ source: { node: 'dome.result' } }),
  })
  await material.flat()
  await material.sharp()
  const beside = async (): Promise<number> => (await material.mean(0.5, 0.24, 0.03))[1]
  const dull = await beside()
  await page.getByRole('button', { name: /Find or do/ }).click()
  await page.keyboard.type('settings of the whole')
  await page.keyboard.press('Enter')
  await material.type('Emission', '20')
  await material.sharp()
  expect(await beside()).toBeGreaterThan(dull + 4)
  for (const v of await material.pixel(0.5, 0.5)) expect(v).toBe(255)
})

test('only swatches that depend on an edit change', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openDemo('Limewash')
  const before = await material.drawn()
  await material.select('base', 'roughness')
  await material.type('Value', '0.31')
  await material.sharp()
  const after = await material.drawn()
  const changed = Object.keys(after).filter((output) => after[output] !== before[output])
  expect(changed).toContain('cell:base:roughness')
  expect(changed).toContain('roughness')
  // Nothing else reads that cell: the closed group and everything of other channels stay.
  expect(changed.filter((output) => !/roughness/.test(output))).toEqual([])
  expect(changed.filter((output) => output.startsWith('cell:'))).toEqual(['cell:base:roughness'])
})

test('an edit during another one wins, and a long drag is one edit', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openDemo('Quay setts')
  await page.getByRole('tab', { name: 'Dials' }).click()
  const track = page.locator('[data-track="Joint width"]')
  const box = (await track.boundingBox())!
  const before = await material.revision()
  await page.mouse.move(box.x + box.width * 0.2, box.y + box.height / 2)
  await page.mouse.down()
  for (let i = 0; i < 15; i++) await page.mouse.move(box.x + box.width * (0.2 + 0.04 * i), box.y + box.height / 2)
  await page.mouse.up()
  await material.sharp()
  await material.saved()
  expect(await material.revision()).toBe(before + 1)
  const there = await material.drawn()
  // The same value reached at once gives the same picture.
  const shown = await material.picture()
  await page.reload()
  await material.awake()
  const again = await material.picture()
  let differing = 0
  for (let i = 0; i < shown.data.length; i++) if (Math.abs(shown.data[i]! - again.data[i]!) > 3) differing++
  expect(differing / shown.data.length).toBeLessThan(0.01)
  expect(there['colour']).toBeGreaterThan(1)
})

test('what moves on the stage is drawn quickly, and fully once it rests', async ({ page }) => {
  const material = new MaterialPage(page)
  await material.openEmpty('Moves')
  const drawn = material.stage
  await drawn.evaluate((canvas) => {
    const seen: string[] = []
    Object.assign(window, { seen })
    new MutationObserver(() => seen.push((canvas as HTMLElement).dataset.drawn!)).observe(canvas, {
      attributeFilter: ['data-drawn'],
    })
  })
  const seen = (): Promise<string[]> => page.evaluate(() => (window as unknown as { seen: string[] }).seen.splice(0))
  await drawn.focus()
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight')
  await material.sharp()
  await expect(drawn).toHaveAttribute('data-drawn', 'fully')
  const ways = await seen()
  expect(ways).toContain('quickly')
  expect(ways.at(-1)).toBe('fully')
  // At rest every pixel of the canvas is drawn.
  const { width, height } = (await drawn.boundingBox())!
  const size = await drawn.evaluate((canvas) => [
    (canvas as HTMLCanvasElement).width,
    (canvas as HTMLCanvasElement).height,
  ])
  const ratio = await page.evaluate(() => devicePixelRatio)
  expect(Math.abs(size[0]! - width * ratio)).toBeLessThan(1.5)
  expect(Math.abs(size[1]! - height * ratio)).toBeLessThan(1.5)
})
