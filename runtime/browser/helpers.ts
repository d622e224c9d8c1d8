import { helpers } from './helper-threads'
import { localExecutor } from '#core/engine/local-executor'
import type { Executor } from '#core/engine/pass'
import { registry } from '#core/nodes/registry.generated'
import { SharedExecutor } from '../shared-executor'

/**
 * Helper workers over shared memory, one for each core: the worker that calls sleeps while they work. Without cross-origin
 * isolation (no SharedArrayBuffer) everything runs on the calling worker, and a newer request is seen between units only.
 */
export function browserExecutor(): Executor {
  const count = helpers.length
  if (count === 0) return localExecutor(registry)
  let next = 0
  // Messages wait at their helper while it is at an earlier pass.
  return new SharedExecutor(count, (message) => helpers[next++ % count]!.doMessage(message))
}
