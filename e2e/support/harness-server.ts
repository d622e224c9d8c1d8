import express from 'express'
import { mkdtempSync, rmSync } from 'node:fs'
import type { AddressInfo, Server } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { build } from 'vite'

/** The core in a page of its own (harness/): built by Vite, served with the isolation headers as the application is. */
export interface HarnessServer {
  readonly address: string
  stop(): void
}

export async function startHarness(): Promise<HarnessServer> {
  const folder = mkdtempSync(join(tmpdir(), 'harness-'))
  await build({
    configFile: false,
    logLevel: 'error',
    root: join(import.meta.dirname, '../harness'),
    worker: { format: 'es' },
    build: { outDir: folder, emptyOutDir: true, target: 'es2023' },
  })
  const app = express()
  app.use((_, response, next) => {
    response.set({ 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' })
    next()
  })
  app.use(express.static(folder))
  const server = await new Promise<Server>((resolve) => {
    const listening = app.listen(0, '127.0.0.1', () => resolve(listening))
  })
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`,
    stop: () => {
      server.close()
      rmSync(folder, { recursive: true })
    },
  }
}
