import { defineConfig } from '@playwright/test'

/** The second engine alone: no server, no database. */
export default defineConfig({
  testDir: '.',
  testMatch: 'second-engine.spec.ts',
  timeout: 300_000,
  workers: 1,
  outputDir: '../test-results',
})
