/**
 * Measures the material screen in Chromium with software WebGL, and writes bench/SCREEN.md: from a dial to the first and
 * to the sharp picture, long tasks of the main thread, and memory over a long drag.
 *   npm run bench:screen -- --minutes 10
 */
import { chromium } from '@playwright/test'
import { execFileSync, spawn } from 'node:child_process'
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import playwright from '../playwright.config'

const { values } = parseArgs({ options: { minutes: { type: 'string', default: '10' } } })
const minutes = Number(values.minutes)
const PORT = 4389
const ADDRESS = `http://127.0.0.1:${PORT}`
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
const browser = await chromium.launch({ executablePath, args: [...args!, '--enable-precise-memory-info'] })
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await page.addInitScript(() => {
  localStorage.setItem('amber-grist-guided', 'yes')
  const tasks: number[] = []
  Object.assign(window, { longTasks: tasks })
  new PerformanceObserver((list) => tasks.push(...list.getEntries().map(({ duration }) => duration))).observe({
    type: 'longtask',
  })
})
await page.goto(ADDRESS)
await page.getByRole('link', { name: 'Lantern Sluice', exact: true }).first().click()
await page.getByRole('link', { name: 'Quay setts', exact: true }).first().click()
const sharp = () => page.waitForSelector('canvas[data-sharp=true]', { timeout: 120_000 })
await sharp()
await page.getByRole('tab', { name: 'Dials' }).click()
const dial = page.getByRole('spinbutton', { name: 'Joint width' })
await dial.focus()
const longTasks = () => page.evaluate(() => (window as unknown as { longTasks: number[] }).longTasks.splice(0))

const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!
const rough: number[] = []
const fine: number[] = []
await longTasks()
for (let i = 0; i < 15; i++) {
  await page.keyboard.press(i % 2 ? 'ArrowDown' : 'ArrowUp')
  await page.waitForTimeout(50)
  await sharp()
  const figures = await page
    .locator('footer [data-sharp]')
    .evaluate((element) => ({ ...(element as HTMLElement).dataset }))
  rough.push(Number(figures.rough))
  fine.push(Number(figures.sharp))
}
const edits = await longTasks()

/** Megabytes of the main thread's heap, after collecting. */
async function heap(): Promise<number> {
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

const track = (await page.locator('[data-track="Joint width"]').boundingBox())!
await page.mouse.move(track.x + track.width / 2, track.y + track.height / 2)
await page.mouse.down()
const rows: string[] = []
const began = Date.now()
let next = 0
let moves = 0
const drags: number[] = []
while (Date.now() - began < minutes * 60_000) {
  const ratio = 0.5 + 0.4 * Math.sin(moves++ / 9)
  await page.mouse.move(track.x + track.width * ratio, track.y + track.height / 2)
  await page.waitForTimeout(30)
  if (Date.now() - began >= next) {
    rows.push(
      `| ${Math.round((Date.now() - began) / 60_000)} | ${(await heap()).toFixed(1)} | ${Math.round(resident())} |`,
    )
    drags.push(...(await longTasks()))
    next += 60_000
  }
}
await page.mouse.up()
await sharp()
rows.push(`| after | ${(await heap()).toFixed(1)} | ${Math.round(resident())} |`)
const frames = await page.locator('canvas[data-frames]').getAttribute('data-frames')

writeFileSync(
  'bench/SCREEN.md',
  `# The material screen, measured

\`npm run bench:screen\`: Quay setts at preview 512, Chromium headless with software WebGL, ${cpus().length} cores shared by
browser, workers and drawing. With a graphics card and more cores every figure is smaller.

| | median | longest |
|---|---|---|
| dial to first picture, 256 | ${Math.round(median(rough))} ms | ${Math.round(Math.max(...rough))} ms |
| dial to sharp picture, 512 | ${Math.round(median(fine))} ms | ${Math.round(Math.max(...fine))} ms |
| long tasks of the main thread, 15 edits (${edits.length}) | ${Math.round(median(edits) ?? 0)} ms | ${Math.round(Math.max(0, ...edits))} ms |
| long tasks, ${minutes} minutes of dragging (${drags.length}) | ${Math.round(median(drags) ?? 0)} ms | ${Math.round(Math.max(0, ...drags))} ms |

Memory while one dial is dragged without a pause (${moves} moves, ${frames} frames drawn):

| minute | heap of the page, MB | resident in all of Chromium, MB |
|---|---|---|
${rows.join('\n')}
`,
)
console.log('wrote bench/SCREEN.md')
await browser.close()
server.kill('SIGTERM')
execFileSync('bin/lib/cluster', ['stop', join(folder, 'postgres')])
rmSync(folder, { recursive: true, force: true })
process.exit(0)
