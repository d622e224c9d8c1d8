import { expect, test } from '@playwright/test'
import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { encodeJpeg } from '#runtime/node/jpeg'
import type { Harness } from './harness/harness'
import type { HarnessServer } from './support/harness-server'
import { startHarness } from './support/harness-server'

let server: HarnessServer

test.beforeAll(async () => {
  server = await startHarness()
})
test.afterAll(() => server.stop())

const stored = JSON.parse(readFileSync('core/nodes/example-hashes.json', 'utf8')) as Record<string, { sha256: string }>

test("every node's example gives in Chromium's workers the bits it gives in Node", async ({ page }) => {
  await page.goto(server.address)
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
  await page.goto(server.address)
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
