import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'

/**
 * What axe finds with the rules of WCAG 2.2 A and AA; of a theme that was only switched to, what depends on colours.
 * In a graph, which zooms, targets may be small: all they do can be done by larger controls of the sheet and the
 * settings (2.5.8, the exception "Equivalent"). `within`: a selector of what is new since the whole page was looked at.
 */
export async function barriers(page: Page, which: 'all' | 'colours' = 'all', within?: string): Promise<string[]> {
  // What passes is not told node by node: that takes most of the time. All frames are our own.
  const axe = new AxeBuilder({ page }).options({ resultTypes: ['violations'] }).setLegacyMode()
  if (within !== undefined) axe.include(within)
  const rules =
    which === 'all'
      ? axe.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
      : axe.withRules(['color-contrast'])
  // Words of a cell that its name says in other words are read once, as its name.
  if (which === 'all') rules.disableRules(['label-content-name-mismatch'])
  const { violations } = await rules.analyze()
  const zoomed = await page.locator('.react-flow__viewport').count()
  const found = violations.flatMap(({ id, nodes }) =>
    nodes.map(({ target, html, failureSummary }) => ({
      id,
      words: `${id}: ${target.join(' ')} ${html.slice(0, 160)} ${failureSummary}`,
      target,
    })),
  )
  const excused = await Promise.all(
    found.map(
      async ({ id, target }) =>
        id === 'target-size' &&
        zoomed > 0 &&
        (await page
          .locator(String(target.at(-1)))
          .first()
          .evaluate((element) => element.closest('.react-flow__viewport') !== null)),
    ),
  )
  return found.filter((_, i) => !excused[i]).map(({ words }) => words)
}
