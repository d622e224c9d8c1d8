import type { Remote } from 'comlink'
import { wrap } from 'comlink'
import type { Helper } from './helper.worker'

/** Threads beyond this bring nothing at preview sizes. */
const MOST = 8

/**
 * One helper worker for each core, begun as soon as this module is evaluated: import it first, so that helpers load while
 * the worker that calls them does. None without cross-origin isolation, which shared memory needs.
 */
export const helpers: readonly Remote<Helper>[] = globalThis.crossOriginIsolated
  ? Array.from({ length: Math.max(1, Math.min(MOST, navigator.hardwareConcurrency)) }, () =>
      wrap<Helper>(new Worker(new URL('./helper.worker.ts', import.meta.url), { type: 'module' })),
    )
  : []
