import type { Remote } from 'comlink'
import { wrap } from 'comlink'
import { localExecutor } from '#core/engine/local-executor'
import type { Executor } from '#core/engine/pass'
import { registry } from '#core/nodes/registry.generated'
import { SharedExecutor } from '../shared-executor'
import type { Helper } from './helper.worker'

/** Threads beyond this bring nothing at preview sizes. */
const MOST = 8

/**
 * Helper workers over shared memory, one for each core: the worker that calls sleeps while they work. Without cross-origin
 * isolation (no SharedArrayBuffer) everything runs on the calling worker, and a newer request is seen between units only.
 */
export function browserExecutor(): Executor {
  if (!globalThis.crossOriginIsolated) return localExecutor(registry)
  const count = Math.max(1, Math.min(MOST, navigator.hardwareConcurrency))
  const helpers: Remote<Helper>[] = Array.from({ length: count }, () =>
    wrap<Helper>(new Worker(new URL('./helper.worker.ts', import.meta.url), { type: 'module' })),
  )
  let next = 0
  // Messages wait at their helper while it is at an earlier pass.
  return new SharedExecutor(count, (message) => helpers[next++ % count]!.doMessage(message))
}
