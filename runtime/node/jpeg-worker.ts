import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import encode, { init } from '@jsquash/jpeg/encode.js'
import { GristError } from '#core/errors'
import type { JpegShape } from '#core/texture/jpeg-codec'
import { encodeWith } from '../jpeg'
import type { TaskFailure } from '../task-outcome'
import { failureOf } from '../task-outcome'

let ready: Promise<void> | undefined
const module = (): WebAssembly.Module =>
  new WebAssembly.Module(
    readFileSync(createRequire(import.meta.url).resolve('@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm')),
  )

/** Entry of the thread that writes JPEGs: a large one takes seconds, in which the process must be heard of. */
export default async ({
  pixels,
  shape,
}: {
  pixels: Uint8Array
  shape: JpegShape
}): Promise<Uint8Array | TaskFailure> => {
  await (ready ??= init(module()))
  try {
    return await encodeWith(encode, pixels, shape)
  } catch (error) {
    if (error instanceof GristError) return failureOf(error)
    throw error
  }
}
