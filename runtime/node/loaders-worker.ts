import { Buffer } from 'node:buffer'
import { GristError } from '#core/errors'
import { failureOf } from '../task-outcome'
import type { LoaderKind, LoaderOutcome } from './loaders'
import { LOADERS } from './loaders'

// Loaders warn about what they skip; a thread that reads foreign files says nothing on the console.
console.warn = () => {}

/** Entry of the thread that reads images. What a loader throws means a broken file. */
export default ({ kind, bytes }: { kind: LoaderKind; bytes: Uint8Array }): LoaderOutcome => {
  try {
    return LOADERS[kind](Buffer.from(bytes))
  } catch (error) {
    if (error instanceof GristError) return failureOf(error)
    const [reason] = (error as Error).message.split('\n')
    return failureOf(new GristError('file-invalid', `The image could not be read: ${reason}`))
  }
}
