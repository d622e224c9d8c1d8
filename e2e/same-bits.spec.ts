import { expect, test } from '@playwright/test'
import express from 'express'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import type { AddressInfo, Server } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { build } from 'vite'
import { encodeJpeg } from '#runtime/node/jpeg'
import type { Harness } from './harness/harness'

/** The core in a page of its own: built by Vite, served with the isolation headers as the application is. */
let server: Server
let folder: string

test.beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'harness-'))
  await build({
    configFile: false,
    logLevel: 'error',
    root: join(import.meta.dirname, 'harness'),
    worker: { format: 'es' },
    build: { outDir: folder, emptyOutDir: true, target: 'es2023' },
  })
  const app = express()
  app.use((_, response, next) => {
    response.set({ 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' })
    next()
  })
  app.use(express.static(folder))
  server = await new Promise<Server>((resolve) => {
    const listening = app.listen(0, '127.0.0.1', () => resolve(listening))
  })
})
test.afterAll(() => {
  server.close()
  rmSync(folder, { recursive: true })
})

const stored = JSON.parse(readFileSync('core/nodes/example-hashes.json', 'utf8')) as Record<string, { sha256: string }>

test("every node's example gives in Chromium's workers the bits it gives in Node", async ({ page }) => {
  await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`)
  await page.waitForFunction(() => 'harness' in window)
  const { isolated, threads } = await page.evaluate(() => (window as unknown as { harness: Harness }).harness)
  expect(isolated).toBe(true)
  expect(threads).toBeGreaterThan(0)
  const hashes: Record<string, string> = {}
  for (const type of Object.keys(stored))
    hashes[type] = await page.evaluate((name) => (window as unknown as { harness: Harness }).harness.hash(name), type)
  expect(hashes).toEqual(Object.fromEntries(Object.entries(stored).map(([type, { sha256 }]) => [type, sha256])))
})

test('a JPEG is shown in Chromium as it is delivered', async ({ page }) => {
  await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`)
  await page.waitForFunction(() => 'harness' in window)
  for (const channels of [1, 3] as const) {
    const [width, height] = [40, 24]
    const pixels = Array.from({ length: width * height * channels }, (_, i) => (i * 2654435761) >>> 24)
    const shown = await page.evaluate(
      ([given, w, h, c]) => (window as unknown as { harness: Harness }).harness.jpeg(given, w, h, c),
      [pixels, width, height, channels] as const,
    )
    const delivered = await encodeJpeg(Uint8Array.from(pixels), { width, height, channels })
    const read = sharp(delivered).toColourspace(channels === 1 ? 'b-w' : 'srgb')
    expect(shown).toEqual([...(await read.raw().toBuffer())])
    expect(shown).not.toEqual(pixels)
  }
})
