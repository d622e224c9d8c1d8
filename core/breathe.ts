import { GristError } from './errors'

/** Milliseconds after which others have their turn. */
const TURN = 30

/**
 * What long work on a thread of others calls now and then: others have their turn there, and it throws `cancelled` where nobody wants the
 * work any more.
 */
export function breathing(isCancelled: () => boolean): () => Promise<void> {
  let since = performance.now()
  return async () => {
    if (performance.now() - since < TURN) return
    await new Promise((resolve) => setTimeout(resolve))
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    since = performance.now()
  }
}
