import type { Locator, Page } from '@playwright/test'

/** The middle of something, in the window. */
export async function middleOf(what: Locator): Promise<[number, number]> {
  const { x, y, width, height } = (await what.boundingBox())!
  return [x + width / 2, y + height / 2]
}

/** Presses at one place, moves to another by way of the middle, and lets go. */
export async function dragBetween(page: Page, from: [number, number], to: [number, number]): Promise<void> {
  await page.mouse.move(...from)
  await page.mouse.down()
  await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2, { steps: 6 })
  await page.mouse.move(...to, { steps: 6 })
  await page.mouse.up()
}
