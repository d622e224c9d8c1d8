import type { Locator, Page } from '@playwright/test'
import { expect } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readWithOiio } from '#core/testing/oiio'

/** The maps screen as a test sees it. */
export class MapsPage {
  readonly sheet: Locator
  readonly findings: Locator
  readonly deliveries: Locator
  readonly stage: Locator

  constructor(readonly page: Page) {
    this.sheet = page.getByRole('grid', { name: /Files by red/ })
    this.findings = page.getByRole('list', { name: 'Findings' })
    this.deliveries = page.getByRole('region', { name: 'Deliveries' })
    this.stage = page.getByRole('region', { name: 'Stage' }).getByRole('img')
  }

  /** From another screen of the material. */
  async open(): Promise<void> {
    await this.page.getByRole('link', { name: 'Maps', exact: true }).click()
    await expect(this.sheet).toBeVisible()
  }

  slot(map: string, slot: 'R' | 'G' | 'B' | 'A'): Locator {
    return this.page.locator(`[data-at="${map}/${'RGBA'.indexOf(slot)}"]`)
  }

  /** Carries something onto something else; `alt` is held from its start. */
  async drag(from: Locator, to: Locator, alt = false): Promise<void> {
    const { mouse, keyboard } = this.page
    await from.scrollIntoViewIfNeeded()
    const [a, b] = [(await from.boundingBox())!, (await to.boundingBox())!]
    await mouse.move(a.x + a.width / 2, a.y + a.height / 3)
    await mouse.down()
    if (alt) await keyboard.down('Alt')
    await mouse.move(a.x + a.width / 2 + 12, a.y + a.height / 3 + 12, { steps: 3 })
    await mouse.move(b.x + b.width / 2, b.y + b.height / 2, { steps: 6 })
    await mouse.up()
    if (alt) await keyboard.up('Alt')
  }

  async files(): Promise<string[]> {
    return this.page.locator('[data-file]').evaluateAll((rows) => rows.map((row) => (row as HTMLElement).dataset.file!))
  }

  /** A channel to be dragged. */
  channel(title: string): Locator {
    return this.page.getByRole('button', { name: title, exact: true })
  }

  async tab(name: RegExp): Promise<void> {
    await this.page.getByRole('tab', { name }).click()
  }

  async size(width: number): Promise<void> {
    await this.tab(/^Make/)
    await this.page.getByRole('radio', { name: String(width), exact: true }).click()
  }

  /** Begins a bake of the size set. */
  async make(): Promise<void> {
    await this.page
      .getByRole('button', { name: /^Make \d+ files? at/ })
      .first()
      .click()
  }

  row(words: string | RegExp): Locator {
    return this.deliveries.getByRole('row').filter({ hasText: words })
  }

  /** Downloads a delivery and gives its files by name, as Python's zipfile unpacks them. */
  async download(row: Locator): Promise<Map<string, Uint8Array>> {
    const [download] = await Promise.all([
      this.page.waitForEvent('download'),
      row.getByRole('link', { name: /^Download/ }).click(),
    ])
    const folder = mkdtempSync(join(tmpdir(), 'delivery-'))
    const names = execFileSync(
      '/usr/bin/python3',
      [
        '-c',
        'import zipfile, sys; z = zipfile.ZipFile(sys.argv[1]); assert z.testzip() is None; z.extractall(sys.argv[2]); print("\\n".join(z.namelist()))',
        await download.path(),
        folder,
      ],
      { encoding: 'utf8' },
    )
    return new Map(
      names
        .trim()
        .split('\n')
        .map((name) => [name, new Uint8Array(readFileSync(join(folder, name)))]),
    )
  }
}

/** Planes of a file as OpenImageIO reads them. */
export const planesOf = (files: Map<string, Uint8Array>, name: string): Float32Array[] =>
  readWithOiio(files.get(name)!, name.split('.').at(-1)!).planes
