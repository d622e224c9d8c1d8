import { defineConfig } from '@playwright/test'

const PORT = 4391
/** What measures the page or the server, or meets limits that hold for all who come from one address. */
const ALONE = /(main-thread|strangers|tabs)\.spec\.ts/

/** Needs DATABASE_URL; bin/test starts a cluster and sets it. */
export default defineConfig({
  testDir: 'e2e',
  timeout: 120_000,
  expect: { timeout: 40_000 },
  workers: 2,
  projects: [
    { name: 'beside', testIgnore: ALONE },
    // After the others, so that these have the machine to themselves.
    { name: 'alone', testMatch: ALONE, workers: 1, dependencies: ['beside'] },
  ],
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    // Half as many pixels each way: what draws without a graphics card takes a quarter of the time.
    deviceScaleFactor: 0.5,
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-gl=angle',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--disable-gpu-compositing',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: {
    command:
      'node --import tsx db/prepare.ts --demo-size 64 && (nice -n 15 node --import tsx worker.ts & exec node --import tsx server.ts)',
    gracefulShutdown: { signal: 'SIGTERM', timeout: 10_000 },
    url: `http://127.0.0.1:${PORT}/`,
    timeout: 180_000,
    env: {
      PORT: String(PORT),
      HOST: '127.0.0.1',
      NODE_ENV: 'production',
      DATABASE_URL: process.env.DATABASE_URL ?? '',
    },
    reuseExistingServer: false,
  },
})
