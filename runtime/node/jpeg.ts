import type { EncodeJpeg } from '#core/texture/jpeg-codec'
import type { TaskFailure } from '../task-outcome'
import { raise } from '../task-outcome'
import { openPool } from './pool'

let pool: ReturnType<typeof openPool> | undefined

/** A JPEG by the encoder that browsers use too, on a thread of its own. The same picture gives the same bytes. */
export const encodeJpeg: EncodeJpeg = async (pixels, shape) => {
  pool ??= openPool('jpeg-worker', 1, { idleTimeout: 5000 })
  const outcome = (await pool.run({ pixels, shape })) as Uint8Array | TaskFailure
  return 'error' in outcome ? raise(outcome) : outcome
}
