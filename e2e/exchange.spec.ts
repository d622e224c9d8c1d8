import { readFile } from 'node:fs/promises'
import { expect, test } from '@playwright/test'
import sharp from 'sharp'
import { readOpenRaster, writeOpenRaster } from '#core/exchange/open-raster'
import { barriers } from './support/barriers'
import { MaterialPage } from './support/material-page'

test('a layer is exported as OpenRaster, painted on elsewhere, and imported into its cell; where both changed it is asked about', async ({
  page,
}) => {
  const material = new MaterialPage(page)
  const cell = (value: string | number) => ({ source: { value }, blend: 'normal', amount: 1, encoding: 'srgb' })
  await material.openEmpty('Painted elsewhere', {
    layers: [
      {
        ...{ kind: 'layer', id: 'iron', name: 'Iron', amount: 1, mask: [] },
        cells: { colour: cell('#5a5148'), roughness: cell(0.6) },
      },
    ],
  })
  await page.locator('[data-at="iron/layer"]').click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Export to an image editor …' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('radio', { name: '512' }).click()
  expect(await barriers(page)).toEqual([])
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    dialog.getByRole('button', { name: 'Export', exact: true }).click(),
  ])
  expect(download.suggestedFilename()).toMatch(/Iron\.ora$/)
  await page.keyboard.press('Escape')

  // Its left half painted green, as an image editor would.
  const raster = readOpenRaster(new Uint8Array(await readFile(await download.path())))
  const layers = await Promise.all(
    raster.layers.map(async (layer) => {
      if (!layer.name.includes(':colour')) return layer
      const half = { create: { width: 256, height: 512, channels: 4, background: '#00ff00' } } as const
      const png = await sharp(layer.png)
        .ensureAlpha()
        .composite([{ input: half, left: 0, top: 0 }])
        .png()
        .toBuffer()
      return { ...layer, png: new Uint8Array(png) }
    }),
  )
  const { png } = layers[0]!
  const file = {
    name: 'Iron, painted.ora',
    mimeType: 'image/openraster',
    buffer: Buffer.from(writeOpenRaster({ ...raster, layers }, { merged: png, thumbnail: png })),
  }
  const importFile = async (): Promise<void> => {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox').fill('import from an image editor')
    await page.keyboard.press('Enter')
    await dialog.getByLabel('File from an image editor').setInputFiles(file)
  }
  const list = dialog.getByRole('list', { name: 'Pictures in the file' })
  await importFile()
  await expect(list).toContainText('changed: values, 50 %')
  expect(await barriers(page)).toEqual([])
  await dialog.getByRole('button', { name: 'Import 1 picture' }).click()
  await expect(dialog).toBeHidden()
  // The same file again is what is here by now, and its node is the one from before.
  await importFile()
  await expect(list.getByText('unchanged')).toHaveCount(2)
  await dialog.getByRole('button', { name: 'Close' }).click()
  await page.getByRole('button', { name: 'Whole graph' }).click()
  await expect(material.nodes.getByText('Iron, Base colour, painted')).toHaveCount(1)

  // With another colour here than the one that went out.
  await page.keyboard.press('Control+z')
  await page.locator('[data-at="iron/colour"]').click()
  await material.settings.getByRole('textbox', { name: 'Colour' }).fill('#203040')
  await page.keyboard.press('Enter')
  await importFile()
  await expect(list).toContainText('so was the material since the export')
  await expect(dialog.getByRole('button', { name: 'Import', exact: true })).toBeDisabled()
  await dialog.getByRole('radio', { name: 'Use the imported one' }).click()
  await dialog.getByRole('button', { name: 'Import 1 picture' }).click()
  await expect(dialog).toBeHidden()
  await expect(material.nodes.getByText('Iron, Base colour, painted')).toHaveCount(1)
})
