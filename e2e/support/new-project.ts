import type { Page } from '@playwright/test'
import { expect } from '@playwright/test'

/** A project of one's own, open at its page. */
export async function newProject(page: Page, name: string): Promise<void> {
  await page.goto('/')
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill(name)
  await page.getByRole('button', { name: 'Make it' }).click()
  // It opens what it made.
  await page.waitForURL(/\/documents\//)
  await page.getByRole('navigation', { name: 'Where you are' }).getByRole('link', { name, exact: true }).click()
  await expect(page.getByRole('heading', { name })).toBeVisible()
}
