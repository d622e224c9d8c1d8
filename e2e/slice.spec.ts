import { expect, test } from '@playwright/test'
import { MapsPage, planesOf } from './support/maps-page'
import { MaterialPage } from './support/material-page'

const apart = (a: Uint8Array, b: Uint8Array): number => a.reduce((sum, v, i) => sum + Math.abs(v - b[i]!), 0) / a.length

test('the whole slice: a demo’s dial, nodes and a mask, undone after a reload, packed, made, cancelled, made again', async ({
  page,
}) => {
  test.slow()
  const material = new MaterialPage(page)
  await material.openDemo('Limewash')

  // A dial, and the pixels that follow it.
  const before = await material.picture()
  await page.getByRole('tab', { name: 'Dials' }).click()
  const lime = page.getByRole('spinbutton', { name: 'Lime left', exact: true })
  await lime.fill('0.75')
  await lime.press('Enter')
  await material.sharp()
  expect(apart((await material.picture()).data, before.data)).toBeGreaterThan(1)

  // A layer that shows only where a node lets it.
  const rows = await material.rows()
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: /^Layer of a plain colour/ }).click()
  const [added] = (await material.rows()).filter((id) => !rows.includes(id))
  await material.select(added!, 'mask')
  await material.settings.getByRole('button', { name: 'New node' }).click()
  await material.takeNode('cells')
  await material.sharp()
  await material.saved()
  await page.reload()
  await material.awake()
  const undo = page.getByRole('button', { name: /^Undo/ })
  await expect(undo).toHaveAccessibleName(/Undo (Add|Mask|.*[Cc]ells)/)
  await undo.click()
  await undo.click()
  await expect.poll(() => material.rows()).toEqual(rows)
  await page.keyboard.press('Control+Shift+Z')
  await page.keyboard.press('Control+Shift+Z')
  await expect.poll(() => material.rows()).toContain(added)
  await material.saved()

  // Gloss beside metal: a packing of one's own, by keyboard.
  const maps = new MapsPage(page)
  await maps.open()
  await maps.slot('occlusion-rough-metal', 'G').click()
  await page.keyboard.press('i')
  await expect(maps.slot('occlusion-rough-metal', 'G')).toHaveAccessibleName(/Roughness, inverted/)
  await expect(page.getByRole('status', { name: 'Packing saved' })).toContainText('● saved')
  await page.getByRole('textbox', { name: 'Name pattern' }).fill('{project}_{map}_{size}_{delivery}')

  // One is cancelled, the other is made.
  await maps.size(4096)
  await maps.make()
  await expect(maps.deliveries.getByText(/% ?, .* left/)).toBeVisible({ timeout: 90_000 })
  await maps.deliveries.getByRole('button', { name: 'Cancel Limewash' }).click()
  await expect(maps.deliveries.getByText('cancelled')).toBeVisible()
  await maps.size(256)
  await maps.make()
  const row = maps.row('256 × 256')
  await expect(row).toBeVisible({ timeout: 60_000 })
  const files = await maps.download(row)
  const name = (map: string): string => `Copy-of-Limewash_${map}_256_`
  const find = (map: string): string => [...files.keys()].find((one) => one.startsWith(name(map)))!
  expect([...files.keys()].filter((one) => one.endsWith('.png') && !one.startsWith('image-'))).toHaveLength(4)
  const [, gloss, metal] = planesOf(files, find('occlusion-rough-metal'))
  const record = JSON.parse(new TextDecoder().decode(files.get('record.json'))) as {
    files: { map: string; slots: { min: number; max: number; inverted: boolean }[] }[]
  }
  const slot = record.files.find(({ map }) => map === 'occlusion-rough-metal')!.slots[1]!
  expect(slot.inverted).toBe(true)
  expect(Math.abs(Math.min(...gloss!) - slot.min)).toBeLessThan(1 / 255)
  expect(Math.abs(Math.max(...gloss!) - slot.max)).toBeLessThan(1 / 255)
  const metallic = record.files.find(({ map }) => map === 'occlusion-rough-metal')!.slots[2]!
  expect(Math.abs(Math.max(...metal!) - metallic.max)).toBeLessThan(1 / 255)
  const normal = planesOf(files, find('normal'))
  for (let i = 0; i < normal[0]!.length; i += 97)
    expect(Math.abs(Math.hypot(...normal.map((plane) => plane[i]! * 2 - 1)) - 1)).toBeLessThan(0.02)

  await row.getByRole('button', { name: /again$/ }).click()
  await expect(page.getByText('all 4 files hold the same, texel for texel')).toBeVisible({ timeout: 60_000 })
})
