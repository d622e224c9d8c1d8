/** Compresses what the built pages load, once, so that the server does not do it for every visitor: X.js.br beside X.js. */
import { createReadStream, createWriteStream, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { constants, createBrotliCompress } from 'node:zlib'

const FOLDER = 'build/web/client/assets'
/** What packs well; fonts and pictures are packed already. */
const KINDS = /\.(js|css|wasm|svg|json)$/
/** Below this nothing is won. */
const LEAST = 1024
/** Nearly as small as the highest, in a tenth of the time. */
const QUALITY = 9

const names = readdirSync(FOLDER).filter((name) => KINDS.test(name) && statSync(join(FOLDER, name)).size >= LEAST)
await Promise.all(
  names.map((name) => {
    const path = join(FOLDER, name)
    const params = {
      [constants.BROTLI_PARAM_QUALITY]: QUALITY,
      [constants.BROTLI_PARAM_SIZE_HINT]: statSync(path).size,
    }
    return pipeline(createReadStream(path), createBrotliCompress({ params }), createWriteStream(`${path}.br`))
  }),
)
