import { expect, test } from '@playwright/test'

test('twelve tabs share one stream of events: all load, and all hear of a change', async ({ context }) => {
  test.setTimeout(180_000)
  const streams: string[] = []
  context.on('request', (request) => request.url().includes('/events') && streams.push(request.url()))
  const tabs = []
  for (let i = 0; i < 12; i++) {
    const tab = await context.newPage()
    await tab.goto(i % 2 ? '/jobs' : '/', { timeout: 20_000 })
    await expect(tab.getByRole('heading', { level: 1 })).toBeVisible()
    tabs.push(tab)
  }
  const [first, jobs] = tabs as [(typeof tabs)[0], (typeof tabs)[0]]
  await first.getByRole('button', { name: 'New project' }).click()
  await first.getByRole('textbox', { name: 'Name' }).fill('Many tabs')
  await first.getByRole('button', { name: 'Make it' }).click()
  await first.waitForURL(/\/documents\//)
  await first.getByRole('navigation').getByRole('link', { name: 'Many tabs', exact: true }).click()
  const address = (await first
    .getByRole('list', { name: 'Materials' })
    .getByRole('link', { name: 'Material 1', exact: true })
    .getAttribute('href'))!
  await first.goto(`${address}/maps`, { timeout: 20_000 })
  // The maps of the document are asked for from the page, as its button does.
  const packing = await first.evaluate(
    async (path) => ((await (await fetch(path)).json()) as { packing: { name: string } }[])[0]!.packing,
    `/projects/${await first.evaluate(() => document.querySelector('a[href^="/projects/"]')!.getAttribute('href')!.split('/')[2])}/packings`,
  )
  await jobs.evaluate(
    async ([path, wanted]) => {
      await fetch(`${path}/maps.data`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: wanted!,
      })
    },
    [address, JSON.stringify({ intent: 'make', packing, width: 64, dither: false, sharpen: 0, revision: 0 })] as const,
  )
  for (const [i, tab] of tabs.entries())
    if (i % 2) await expect(tab.getByText('Many tabs', { exact: true }).first()).toBeVisible()
})
