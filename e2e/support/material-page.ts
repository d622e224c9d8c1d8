import type { Locator, Page } from '@playwright/test'
import { expect } from '@playwright/test'
import sharp from 'sharp'
import { v4 as uuid } from 'uuid'

/** The material screen as a test sees it. */
export class MaterialPage {
  readonly stage: Locator
  readonly sheet: Locator
  readonly settings: Locator
  readonly nodes: Locator

  constructor(readonly page: Page) {
    this.stage = page.getByRole('region', { name: 'Stage' }).getByRole('img')
    this.sheet = page.getByRole('grid', { name: /Layers by channels/ })
    this.settings = page.getByRole('region', { name: 'Settings' })
    this.nodes = page.getByRole('region', { name: 'Nodes' })
  }

  /**
   * A project of one's own with one empty tile material, open; the first steps are known. `members` of the document are
   * saved before it is opened, as another tab would.
   */
  async openEmpty(name: string, members: Record<string, unknown> = {}): Promise<void> {
    const address = await this.create(name, 'plain')
    if (Object.keys(members).length > 0) await this.put(address, members)
    await this.known()
    await this.page.goto(address)
    await this.awake()
  }

  /** Makes a project with one material, as the page of projects does. Gives the material's address. */
  private async create(name: string, start: string): Promise<string> {
    const answer = await this.page.request.post('/?index', {
      form: { intent: 'create', name, start },
      maxRedirects: 0,
    })
    return answer.headers().location!
  }

  /** As somebody who knows the first steps and looks at small previews. */
  private async known(): Promise<void> {
    await this.page.addInitScript(() => {
      localStorage.setItem('amber-grist-guided', 'yes')
      if (!localStorage.getItem('amber-grist-view')) localStorage.setItem('amber-grist-view', '{"width":256}')
    })
  }

  /** Addresses of the demo's project, and of a material in it. */
  private async demo(name: string): Promise<{ project: string; material: string }> {
    const found = async (address: string, link: RegExp): Promise<string> =>
      link.exec(await (await this.page.request.get(address)).text())![1]!
    const project = await found('/', /href="([^"]+)"[^>]*>Lantern Sluice</)
    return { project, material: await found(project, new RegExp(`href="(/documents/[^"]+)"[^>]*>${name}<`)) }
  }

  /** A copy of a demo material in a project of its own, open; `drawn` is false in a browser without WebGL. */
  async openDemo(name: string, { drawn = true } = {}): Promise<void> {
    const { material } = await this.demo(name)
    const address = await this.create(`Copy of ${name}`, `copy:${material.split('/').at(-1)!}`)
    await this.known()
    await this.page.goto(address)
    await this.opened(name, drawn)
  }

  /** The same in a copy of the whole demo, with its models. */
  async openInDemo(name: string, { drawn = true } = {}): Promise<void> {
    const { project } = await this.demo(name)
    const id = project.split('/').at(-1)!
    const answer = await this.page.request.post('/.data?index', { form: { intent: 'duplicate', id } })
    const copy = (await answer.text()).match(/[0-9a-f-]{36}/g)!.find((one) => one !== id)!
    await this.known()
    await this.page.goto(`/projects/${copy}`)
    await this.page.getByRole('link', { name, exact: true }).first().click()
    await this.opened(name, drawn)
  }

  private async opened(name: string, drawn: boolean): Promise<void> {
    await expect(this.page).toHaveTitle(`${name} · Amber Grist`)
    if (drawn) await this.awake()
    else await expect(this.stage).toHaveAttribute('data-sharp', 'true')
  }

  /** The page answers once its first picture is on the stage. */
  async awake(): Promise<void> {
    await expect(this.stage).toHaveAttribute('data-frames', /[1-9]/, { timeout: 90_000 })
    await this.sharp()
  }

  /** The newest edit is on the stage at full size. */
  async sharp(): Promise<void> {
    await expect(this.stage).toHaveAttribute('data-sharp', 'true')
    await expect(this.stage).toHaveAttribute('data-drawn', 'fully')
    // One frame more: textures are drawn with the frame after they come.
    await this.page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))))
  }

  async saved(): Promise<void> {
    await expect(this.page.getByRole('status', { name: 'Saved' })).toContainText('● saved')
  }

  /** The revision that holds all edits. */
  async revision(): Promise<number> {
    const status = this.page.getByRole('status', { name: 'Saved' })
    const saved = /● saved.*revision (\d+)/
    await expect(status).toHaveText(saved)
    return Number(saved.exec((await status.textContent())!)?.[1] ?? NaN)
  }

  cell(layer: string, column: string): Locator {
    return this.page.locator(`[data-at="${layer}/${column}"]`)
  }

  async select(layer: string, column: string): Promise<void> {
    await this.cell(layer, column).click()
  }

  async rows(): Promise<string[]> {
    return this.page
      .locator('[data-layer]')
      .evaluateAll((rows) => rows.map((row) => (row as HTMLElement).dataset.layer!))
  }

  /** Types a number into a field. */
  async type(field: string | RegExp, text: string): Promise<void> {
    const box = this.settings.getByRole('spinbutton', { name: field })
    await box.fill(text)
    await box.press('Enter')
  }

  /** Takes a node from the list that is open. */
  async takeNode(search: string): Promise<void> {
    await this.page.getByRole('combobox', { name: 'Add a node' }).fill(search)
    await this.page.keyboard.press('Enter')
    await expect(this.page.getByRole('dialog', { name: 'Add a node' })).toBeHidden()
  }

  async show(look: string): Promise<void> {
    await this.page.getByLabel('What is shown').selectOption(look)
  }

  async flat(): Promise<void> {
    await this.page.getByRole('radio', { name: 'Flat' }).click()
  }

  /** Red, green, blue of the stage at shares of its width and height, as on screen. */
  async pixel(across: number, down: number): Promise<[number, number, number]> {
    const { data, width, height } = await this.picture()
    const at = (Math.floor(down * height) * width + Math.floor(across * width)) * 3
    return [data[at]!, data[at + 1]!, data[at + 2]!]
  }

  async picture(): Promise<{ data: Uint8Array; width: number; height: number }> {
    const png = await this.stage.screenshot()
    const { data, info } = await sharp(png).removeAlpha().raw().toBuffer({ resolveWithObject: true })
    return { data: new Uint8Array(data), width: info.width, height: info.height }
  }

  /** Mean of each colour over a square of the stage, sides as shares. */
  async mean(across: number, down: number, side: number): Promise<[number, number, number]> {
    const { data, width, height } = await this.picture()
    const sum = [0, 0, 0]
    let count = 0
    for (let y = Math.floor((down - side / 2) * height); y < (down + side / 2) * height; y++)
      for (let x = Math.floor((across - side / 2) * width); x < (across + side / 2) * width; x++) {
        for (let c = 0; c < 3; c++) sum[c]! += data[(y * width + x) * 3 + c]!
        count++
      }
    return sum.map((v) => v / count) as [number, number, number]
  }

  /** How often each swatch has changed, by output. */
  async drawn(): Promise<Record<string, number>> {
    return this.page
      .locator('img[data-output]')
      .evaluateAll((all) =>
        Object.fromEntries(
          all.map((one) => [(one as HTMLElement).dataset.output!, Number((one as HTMLElement).dataset.changes)]),
        ),
      )
  }

  private async put(address: string, members: Record<string, unknown>): Promise<void> {
    const before = (await (await this.page.request.get(`${address}/revisions/0`)).json()) as Record<string, unknown>
    const edit = {
      id: uuid(),
      kind: 'edit',
      label: 'Put by the test',
      patches: Object.entries(members).map(([key, value]) => ({ op: 'replace', path: [key], value })),
      inverse: Object.keys(members).map((key) => ({ op: 'replace', path: [key], value: before[key] })),
    }
    const answer = await this.page.request.post(`${address}/edits`, { data: { base: 0, edits: [edit] } })
    expect(answer.status()).toBe(200)
  }

  /** The height that the probe reads at shares of the stage. */
  async probeHeight(across: number, down: number): Promise<number> {
    const box = (await this.stage.boundingBox())!
    await this.page.mouse.move(box.x + box.width * across, box.y + box.height * down)
    const line = this.page.locator('[data-probe]')
    await expect(line).toContainText('height')
    await this.page.waitForTimeout(200)
    return Number(/height (-?[\d.]+)/.exec((await line.textContent())!)![1])
  }
}
