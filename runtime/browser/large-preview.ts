import type { Output } from '#core/document/address'
import { parseOutput } from '#core/document/address'
import { GristError } from '#core/errors'
import type { MaterialSession, PartialReport } from '#core/material/session'
import type { Textures } from './protocol'
import type { TextureMaker } from './textures'

/**
 * Previews wider than LARGE: fields are made band by band, without the cache and in memory that goes when they are done, and
 * each band goes straight into the textures.
 */

/** Bytes that a page may take with such a preview on its stage. */
const TOTAL_BYTES = 2 * 2 ** 30
/** Of these: the program, its threads with what kernels need for a while, and textures on their way; seen from outside. */
const PROGRAM_BYTES = 640 << 20
/** A texture lies on the page, and with its mipmaps where it is drawn. */
const TEXTURE_COPIES = 1 + 4 / 3

/** What of a preview is made large. */
export interface LargeRequest {
  readonly width: number
  /** Those that the page is to have. */
  readonly makers: readonly TextureMaker[]
  /** Of these: those that it lacks. */
  readonly lacking: readonly TextureMaker[]
  /** What the cache of smaller previews may hold meanwhile. */
  readonly cacheBytes: number
}

const outputsOf = (makers: readonly TextureMaker[]): Output[] =>
  [...new Set(makers.flatMap(({ outputs }) => outputs))].map(parseOutput)

/** What a page takes with a preview, in bytes. Throws size-invalid, memory-budget. */
export function forecastLarge(session: MaterialSession, request: LargeRequest): number {
  const { makers, width } = request
  const outputs = outputsOf(makers)
  const [spent, budgetBytes] = budgetOf(session, request)
  return spent + session.forecast({ outputs, width, budgetBytes }).bytes
}

/** Makes textures band by band. Throws size-invalid, memory-budget, cancelled. */
export async function evaluateLarge(
  session: MaterialSession,
  request: LargeRequest,
  signals: { readonly isCancelled: () => boolean; readonly onProgress: (ratio: number) => void },
): Promise<PartialReport & { readonly textures: Textures }> {
  const { lacking, width } = request
  const outputs = outputsOf(lacking)
  const [, budgetBytes] = budgetOf(session, request)
  const textures: Textures = {}
  const made = await session.evaluatePartialBands({ outputs, width, budgetBytes, ...signals }, (fields, band) => {
    for (const maker of lacking) {
      if (!maker.outputs.every((output) => fields.has(output))) continue
      const picture = (textures[maker.slot] ??= { key: '', ...maker.begin(fields) })
      maker.fill(picture, fields, { from: band.top, to: band.top + band.rows })
    }
  })
  // What was begun before a node failed is not there.
  for (const { slot, outputs: names } of lacking) if (!names.every((name) => made.keys.has(name))) delete textures[slot]
  return { ...made, textures }
}

/** Bytes that are spent whatever is evaluated, and those that are left for fields. Throws size-invalid, memory-budget. */
function budgetOf(session: MaterialSession, request: LargeRequest): [spent: number, left: number] {
  const { width, height } = session.sizeAt(request.width)
  let texelBytes = 0
  for (const { slot, outputs } of request.makers)
    if (!outputs.every((name) => session.isUniform(parseOutput(name)))) texelBytes += slot === 'height' ? 2 : 4
  const spent = PROGRAM_BYTES + request.cacheBytes + texelBytes * width * height * TEXTURE_COPIES
  if (spent >= TOTAL_BYTES)
    throw new GristError(
      'memory-budget',
      `At ${width} × ${height} the textures alone leave no room: a preview may take ${TOTAL_BYTES / 2 ** 20} MB. Choose a smaller size.`,
    )
  return [spent, TOTAL_BYTES - spent]
}
