/**
 * Measures the material screen in Chromium and writes bench/SCREEN.md: from a page to its first picture, from a dial's value
 * that was never seen to the first and to the sharp picture, long tasks of the main thread, and memory over a long drag. Once
 * with WebGL in software, and once in a browser that has none: our own share.
 *   npm run bench:screen -- --minutes 10
 */
import type { Page } from '@playwright/test'
import { chromium } from '@playwright/test'
import { execFileSync, spawn } from 'node:child_process'
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import playwright from '../playwright.config'
import type { LongTask } from '../e2e/support/long-tasks'
import { takeLongTasks, watchLongTasks } from '../e2e/support/long-tasks'

const { values } = parseArgs({ options: { minutes: { type: 'string', default: '10' } } })
const minutes = Number(values.minutes)
const PORT = 4389
const ADDRESS = `http://127.0.0.1:${PORT}`
const DIALS = ['Joint width', 'Algae']
const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0
const whole = (v: number): string => String(Math.round(v))
const longest = (tasks: readonly LongTask[]): string =>
  `${tasks.length}, ${whole(Math.max(0, ...tasks.map(({ duration }) => duration)))}`

const folder = mkdtempSync(join(tmpdir(), 'bench-screen-'))
// The database's user walks down to its folder in here.
chmodSync(folder, 0o711)
process.env.DATABASE_URL = execFileSync('bin/lib/cluster', ['start', join(folder, 'postgres')], {
  encoding: 'utf8',
}).trim()
const env = { ...process.env, PORT: String(PORT), HOST: '127.0.0.1', NODE_ENV: 'production' }
execFileSync('bin/lib/build', ['.'])
execFileSync('node', ['--import', 'tsx', 'db/prepare.ts', '--demo-size', '64'], { env })
const server = spawn('node', ['--import', 'tsx', 'server.ts'], { env, stdio: ['ignore', 'pipe', 'inherit'] })
await new Promise((resolve) => server.stdout.once('data', resolve))

const { executablePath, args } = playwright.use!.launchOptions!
const withoutGl = ['--no-sandbox', '--disable-gpu', '--disable-3d-apis']

/** The status line's figures about the newest picture. */
const figures = (page: Page): Promise<Record<string, string>> =>
  page.locator('footer [data-sharp]').evaluate((element) => ({ ...(element as HTMLElement).dataset }) as never)

async function open(gl: boolean) {
  const browser = await chromium.launch({
    executablePath,
    args: [...(gl ? args! : withoutGl), '--enable-precise-memory-info'],
  })
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  await page.addInitScript(() => {
    localStorage.setItem('amber-grist-guided', 'yes')
    // When the first picture was there: drawn, or in the sheet where nothing draws.
    // No function with a name of its own: names are kept by a helper that a page does not have.
    const timer = setInterval(() => {
      const drawn = document.querySelector<HTMLElement>('section[aria-label=Stage] canvas')?.dataset.drawn
      const swatch = document.querySelector<HTMLElement>('img[data-output="colour"]')?.dataset.changes
      const isThere = drawn ? drawn === 'quickly' || drawn === 'fully' : Number(swatch) > 0
      if (!isThere) return
      clearInterval(timer)
      Object.assign(window, { firstPicture: performance.now() })
    }, 5)
  })
  await watchLongTasks(page)
  await page.goto(ADDRESS)
  await page.getByRole('link', { name: 'Lantern Sluice', exact: true }).first().click()
  const material = await page.getByRole('link', { name: 'Quay setts', exact: true }).first().getAttribute('href')
  const sharp = () => page.waitForSelector('canvas[data-sharp=true]', { timeout: 120_000 })
  const first: number[] = []
  const loading: LongTask[] = []
  for (let i = 0; i < 5; i++) {
    await page.goto(`${ADDRESS}${material}`)
    await sharp()
    first.push(await page.evaluate(() => (window as unknown as { firstPicture: number }).firstPicture))
    loading.push(...(await takeLongTasks(page)))
  }
  return { browser, page, sharp, first, loading }
}

/** A dial turned to values never seen, and how long the pictures took. */
async function turn(page: Page, sharp: () => Promise<unknown>, name: string) {
  const dial = page.getByRole('spinbutton', { name })
  const [low, high] = [
    Number(await dial.getAttribute('aria-valuemin')),
    Number(await dial.getAttribute('aria-valuemax')),
  ]
  const rough: number[] = []
  const fine: number[] = []
  await takeLongTasks(page)
  for (let i = 0; i < 15; i++) {
    // The golden section never comes back to a value.
    await dial.fill(String(low + (high - low) * ((0.2 + i * 0.6180339887) % 1)))
    await dial.press('Enter')
    await page.waitForTimeout(30)
    await sharp()
    const found = await figures(page)
    rough.push(Number(found.rough))
    fine.push(Number(found.sharp))
    await page.waitForTimeout(300)
  }
  return { rough, fine, tasks: await takeLongTasks(page) }
}

/** Megabytes of the main thread's heap, after collecting. */
async function heap(page: Page): Promise<number> {
  const session = await page.context().newCDPSession(page)
  await session.send('HeapProfiler.collectGarbage')
  const used = await page.evaluate(
    () => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize,
  )
  await session.detach()
  return used / 1e6
}
/** Megabytes resident in all processes of the browser. */
function resident(): number {
  const out = execFileSync('ps', ['-eo', 'rss,args'], { encoding: 'utf8' })
  return (
    out
      .split('\n')
      .filter((line) => line.includes('chromium') && line.includes('--type='))
      .reduce((sum, line) => sum + Number(line.trim().split(/\s+/)[0]), 0) / 1000
  )
}

/** One dial dragged without a pause: memory by the minute, moves, frames, long tasks. */
async function drag(page: Page) {
  const track = (await page.locator('[data-track="Joint width"]').boundingBox())!
  await page.mouse.move(track.x + track.width / 2, track.y + track.height / 2)
  await page.mouse.down()
  const rows: string[] = []
  const tasks: LongTask[] = []
  const began = Date.now()
  let next = 0
  let moves = 0
  while (Date.now() - began < minutes * 60_000) {
    const ratio = 0.5 + 0.4 * Math.sin(moves++ / 9.13)
    await page.mouse.move(track.x + track.width * ratio, track.y + track.height / 2)
    await page.waitForTimeout(30)
    if (Date.now() - began < next) continue
    rows.push(
      `| ${Math.round((Date.now() - began) / 60_000)} | ${(await heap(page)).toFixed(1)} | ${whole(resident())} |`,
    )
    tasks.push(...(await takeLongTasks(page)))
    next += 60_000
  }
  await page.mouse.up()
  return { rows, moves, tasks }
}

const results: string[] = []
let memory = ''
for (const gl of [true, false]) {
  const { browser, page, sharp, first, loading } = await open(gl)
  const where = gl ? 'WebGL in software' : 'no WebGL'
  results.push(`| ${where} | page to first picture | ${whole(median(first))} | | ${longest(loading)} |`)
  await page.getByRole('tab', { name: 'Dials' }).click()
  for (const name of DIALS) {
    const { rough, fine, tasks } = await turn(page, sharp, name)
    results.push(`| ${where} | ${name} | ${whole(median(rough))} | ${whole(median(fine))} | ${longest(tasks)} |`)
  }
  if (gl) {
    const { rows, moves, tasks } = await drag(page)
    await sharp()
    rows.push(`| after | ${(await heap(page)).toFixed(1)} | ${whole(resident())} |`)
    const frames = await page.locator('canvas[data-frames]').getAttribute('data-frames')
    results.push(`| ${where} | ${minutes} min of dragging | | | ${longest(tasks)} |`)
    memory = `Memory while one dial is dragged without a pause (${moves} moves, ${frames} frames drawn):

| minute | heap of the page, MB | resident in all of Chromium, MB |
|---|---:|---:|
${rows.join('\n')}
`
  }
  await browser.close()
}

writeFileSync(
  'bench/SCREEN.md',
  `# The material screen, measured

\`npm run bench:screen\`: Quay setts at preview 512, Chromium headless, ${cpus().length} cores shared by browser, workers and drawing.
A dial goes to values never seen before; medians of 15. First pictures are 256 texels wide, sharp ones 512. Without WebGL
nothing is drawn, so its figures are our own share; long tasks with software WebGL are mostly waits for its pixels.

| browser | what | first picture, ms | sharp picture, ms | long tasks: number, longest ms |
|---|---|---:|---:|---:|
${results.join('\n')}

${memory}`,
)
console.log('wrote bench/SCREEN.md')
server.kill('SIGTERM')
execFileSync('bin/lib/cluster', ['stop', join(folder, 'postgres')])
rmSync(folder, { recursive: true, force: true })
process.exit(0)
