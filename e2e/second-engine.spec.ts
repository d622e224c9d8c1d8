import { expect, test } from '@playwright/test'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser } from 'puppeteer-core'
import puppeteer from 'puppeteer-core'
import type { Harness } from './harness/harness'
import type { HarnessServer } from './support/harness-server'
import { startHarness } from './support/harness-server'

/** Debian's Firefox, driven through WebDriver BiDi: an engine that shares no compiler with Node and Chromium. */
let server: HarnessServer
let browser: Browser
let profile: string

test.beforeAll(async () => {
  profile = mkdtempSync(join(tmpdir(), 'firefox-'))
  ;[server, browser] = await Promise.all([
    startHarness(),
    puppeteer.launch({
      browser: 'firefox',
      executablePath: '/usr/bin/firefox-esr',
      headless: true,
      userDataDir: profile,
      // It writes its caches under HOME, which a service may not own.
      env: { ...process.env, HOME: profile },
    }),
  ])
})
test.afterAll(async () => {
  await browser?.close()
  server?.stop()
  rmSync(profile, { recursive: true, force: true })
})

const stored = JSON.parse(readFileSync('core/nodes/example-hashes.json', 'utf8')) as Record<string, { sha256: string }>

test("every node's example gives in Firefox's workers the bits it gives in Node", async () => {
  const page = await browser.newPage()
  await page.goto(server.address)
  await page.waitForFunction(() => 'harness' in window)
  const started = await page.evaluate(() => {
    const { isolated, threads } = (window as unknown as { harness: Harness }).harness
    return { isolated, threads, agent: navigator.userAgent }
  })
  expect(started.agent).toContain('Firefox/')
  expect(started.isolated).toBe(true)
  expect(started.threads).toBeGreaterThan(0)
  const hashes: Record<string, string> = {}
  for (const type of Object.keys(stored))
    hashes[type] = await page.evaluate((name) => (window as unknown as { harness: Harness }).harness.hash(name), type)
  expect(hashes).toEqual(Object.fromEntries(Object.entries(stored).map(([type, { sha256 }]) => [type, sha256])))
})
