import { createHash } from 'node:crypto'
import { constants, deflateRawSync } from 'node:zlib'
import type { CodeHost } from '#core/texture/code-band'
import type { Deflate, DeflateHow } from '#core/texture/bytes/deflate'

const STRATEGY: Record<DeflateHow['strategy'], number> = {
  default: constants.Z_DEFAULT_STRATEGY,
  filtered: constants.Z_FILTERED,
  huffman: constants.Z_HUFFMAN_ONLY,
  rle: constants.Z_RLE,
}

/** Node's zlib: its bytes may change between versions, which is why records promise texels. */
const deflate: Deflate = (bytes, { level, strategy, isLast }) =>
  deflateRawSync(bytes, {
    level,
    strategy: STRATEGY[strategy],
    memLevel: 9,
    finishFlush: isLast ? constants.Z_FINISH : constants.Z_SYNC_FLUSH,
  })

/** What coding uses of Node. */
export const codeHost: CodeHost = { deflate, sha256: (bytes) => createHash('sha256').update(bytes).digest() }
