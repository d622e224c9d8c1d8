import type { Output } from '../document/address'
import { channelOutput, formatOutput } from '../document/address'
import { GristError } from '../errors'
import type { Field } from '../field/field'
import type { MaterialSession } from '../material/session'
import type { LayersToExport, LayerPicture, PictureTag } from './exported-pictures'
import { channelOf, keyFor, exportNotes, picturesOf, taggedFileName, taggedName } from './exported-pictures'
import type { RasterLayer } from './open-raster'
import { isKnownBlend, writeOpenRaster } from './open-raster'
import { pngOf, rgbaOf, smaller } from './rgba'

/** Bytes that fields may take meanwhile. */
const BUDGET = 1200 << 20
const THUMBNAIL = 256

export interface ExchangeSignals {
  readonly isCancelled?: () => boolean
  readonly onProgress?: (ratio: number) => void
  /** Lets others have their turn. */
  readonly pause?: () => Promise<void>
}

/** Share of the time that evaluating takes; the rest goes to packing pictures. */
const EVALUATED = 0.6

/** An exported file, and what of it image editors show otherwise. */
export interface ExportedFile {
  readonly name: string
  readonly bytes: Uint8Array
  readonly notes: readonly string[]
}

/**
 * Writes what an exchange holds as an OpenRaster file: colours and masks in 8 bits, everything else in 16. Throws reference-unknown where
 * there is nothing to write, what is wrong with an output, size-invalid, memory-budget, cancelled.
 */
export async function exportLayers(
  session: MaterialSession,
  what: LayersToExport,
  width: number,
  signals: ExchangeSignals = {},
): Promise<ExportedFile> {
  const { document } = session
  const pictures = picturesOf(document, what)
  if (pictures.length === 0)
    throw new GristError('reference-unknown', 'There is nothing to export: no cell and no mask.')
  const whole = what.kind === 'channel' ? channelOutput(what.channel) : pictures.at(-1)!.output
  const outputs = [...pictures.flatMap(({ output, mask }) => (mask ? [output, mask] : [output])), whole]
  const { isCancelled = () => false, onProgress = () => {}, pause = async () => {} } = signals
  const { fields } = await session.evaluate({
    ...{ outputs, width, budgetBytes: BUDGET, isCancelled },
    onProgress: (ratio) => onProgress(ratio * EVALUATED),
  })
  const fieldOf = (output: Output): Field => fields.get(formatOutput(output))!
  const keys = session.keysOf(outputs)
  const merged = rgbaOf(fieldOf(whole), null, channelOf(document, whole), Uint8Array)
  const layers: RasterLayer[] = []
  for (const [i, picture] of pictures.entries()) {
    onProgress(EVALUATED + ((1 - EVALUATED) * i) / pictures.length)
    await pause()
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    layers.push({
      name: taggedName(picture.title, tagFor(picture, keys)),
      png: pngFor(session, picture, fieldOf),
      ...{ x: 0, y: 0, opacity: picture.opacity, visible: picture.visible, blend: picture.blend },
    })
  }
  const bytes = writeOpenRaster(
    { width: merged.width, height: merged.height, layers },
    { merged: pngOf(merged, true), thumbnail: pngOf(smaller(merged, THUMBNAIL), true) },
  )
  const unknown = pictures.filter(({ blend }) => !isKnownBlend(blend))
  return {
    name: `${document.name}, ${nameOf(session, what)}.ora`,
    bytes,
    notes: [
      ...exportNotes(document, what),
      ...unknown.map(
        ({ title, blend }) => `${title}: image editors do not know the blend “${blend}”; it is exported as normal.`,
      ),
    ],
  }
}

/** One picture as a PNG of the same depth; a whole channel too. */
export async function exportPicture(
  session: MaterialSession,
  output: Output,
  title: string,
  width: number,
  signals: ExchangeSignals = {},
): Promise<ExportedFile> {
  const { isCancelled = () => false, onProgress = () => {} } = signals
  const { fields } = await session.evaluate({
    ...{ outputs: [output], width, budgetBytes: BUDGET, isCancelled, onProgress },
  })
  const picture = { output, title, mask: null, blend: 'normal', opacity: 1, visible: true } as const
  const tag = tagFor(picture, session.keysOf([output]))
  const bytes = pngFor(session, picture, (one) => fields.get(formatOutput(one))!)
  return { name: taggedFileName(title, tag, '.png'), bytes, notes: [] }
}

const tagFor = ({ output, mask }: LayerPicture, keys: ReadonlyMap<string, string>): PictureTag => ({
  output,
  withMask: mask !== null,
  key: keyFor(keys.get(formatOutput(output))!),
})

function pngFor(
  session: MaterialSession,
  { output, mask }: LayerPicture,
  fieldOf: (output: Output) => Field,
): Uint8Array {
  const channel = channelOf(session.document, output)
  const [field, opacity] = [fieldOf(output), mask && fieldOf(mask)]
  const isEight = channel === null || channel.type === 'colour'
  const isColour = channel?.type === 'colour'
  return isEight
    ? pngOf(rgbaOf(field, opacity, channel, Uint8Array), isColour)
    : pngOf(rgbaOf(field, opacity, channel, Uint16Array), false)
}

function nameOf({ document }: MaterialSession, what: LayersToExport): string {
  if (what.kind === 'channel') return channelOf(document, channelOutput(what.channel))?.title ?? what.channel
  return picturesOf(document, what)[0]!.title.replace(/, [^,]*$/, '')
}
