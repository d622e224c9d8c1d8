import { readFile } from 'node:fs/promises'
import { expect, test } from '@playwright/test'
import sharp from 'sharp'
import { readOpenRaster, writeOpenRaster } from '#core/exchange/open-raster'
import { barriers } from './support/barriers'
import { newProject } from './support/new-project'

test('a layer goes out as OpenRaster, is painted on elsewhere, and comes back into its cell; changed here too, it is asked about', async ({
  page,
}) => {
  await newProject(page, 'Painted elsewhere')
  await page
    .getByRole('link', { name: /Material/ })
    .first()
    .click()
  const row = page.getByRole('row').filter({ hasText: 'Base' }).first()
  await row.getByRole('rowheader').click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Out to an image editor …' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('radio', { name: '512' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    dialog.getByRole('button', { name: 'Save the file' }).click(),
  ])
  expect(download.suggestedFilename()).toMatch(/\.ora$/)
  expect(await barriers(page)).toEqual([])
  await page.keyboard.press('Escape')

  const raster = readOpenRaster(new Uint8Array(await readFile(await download.path())))
  const layers = await Promise.all(
    raster.layers.map(async (layer) => {
      if (!layer.name.includes(':colour')) return layer
      const square = { create: { width: 256, height: 512, channels: 4, background: '#00ff00' } } as const
      const png = await sharp(layer.png)
        .ensureAlpha()
        .composite([{ input: square, left: 0, top: 0 }])
        .png()
        .toBuffer()
      return { ...layer, png: new Uint8Array(png) }
    }),
  )
  const { png } = layers[0]!
  const file = {
    name: 'Base.ora',
    mimeType: 'image/openraster',
    buffer: Buffer.from(writeOpenRaster({ ...raster, layers }, { merged: png, thumbnail: png })),
  }
  const comeBack = async (): Promise<void> => {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox').fill('painted in an image editor')
    await page.keyboard.press('Enter')
    await dialog.getByLabel('File from an image editor').setInputFiles(file)
  }
  await comeBack()
  const list = dialog.getByRole('list', { name: 'Pictures that came back' })
  await expect(list).toContainText('painted on: values, 50 %')
  expect(await barriers(page)).toEqual([])
  await dialog.getByRole('button', { name: 'Take in 1 picture' }).click()
  await expect(dialog).toBeHidden()
  await expect(page.getByText('Undo Take in what was painted')).toHaveCount(0)

  // The same file again is what is here by now.
  await comeBack()
  await expect(list).toContainText('as it is here')
  await dialog.getByRole('button', { name: 'Close' }).click()
  // What was undone is a change since it went out, and what went out with other values is asked about.
  await page.keyboard.press('Control+z')
  await comeBack()
  await expect(list).toContainText('painted on: values, 50 %')
  await page.keyboard.press('Escape')
})
