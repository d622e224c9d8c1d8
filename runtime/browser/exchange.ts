import type { GoingOut } from '#core/exchange/exchanged'
import type { OpenRaster } from '#core/exchange/open-raster'
import { readOpenRaster } from '#core/exchange/open-raster'
import type { Rgba } from '#core/exchange/rgba'
import type { ExchangeSignals, SentOut } from '#core/exchange/send-out'
import { sendOut, sendPictureOut } from '#core/exchange/send-out'
import type { CameBack, DecodePng } from '#core/exchange/take-back'
import { takeBack } from '#core/exchange/take-back'
import { GristError } from '#core/errors'
import type { MaterialSession } from '#core/material/session'

/** What is written for an image editor: layers in one file, or one picture. */
export type SentWanted = GoingOut & { readonly width: number }

/** A file that came back. */
export interface BackFile {
  readonly name: string
  readonly bytes: Uint8Array
}

type Signals = Required<ExchangeSignals>

export const writeForEditor = (session: MaterialSession, wanted: SentWanted, signals: Signals): Promise<SentOut> =>
  'layers' in wanted
    ? sendOut(session, wanted.layers, wanted.width, signals)
    : sendPictureOut(session, wanted.picture, wanted.title, wanted.width, signals)

/** What came back in a file: OpenRaster, or a PNG whose name has its tag. Throws file-invalid, file-unsupported. */
export async function readFromEditor(
  session: MaterialSession,
  { name, bytes }: BackFile,
  decode: DecodePng,
  signals: Signals,
): Promise<CameBack[]> {
  const found = await takeBack(session, await rasterOf(name, bytes, decode), decode, signals)
  if (found.length === 0)
    throw new GristError(
      'file-unsupported',
      'No layer has a name that went out from here: “… [cell:rust:colour #1a2b3c4d]”. Keep that part of the names.',
      { file: name },
    )
  return found
}

async function rasterOf(name: string, bytes: Uint8Array, decode: DecodePng): Promise<OpenRaster> {
  if (/\.ora$/i.test(name)) return readOpenRaster(bytes)
  const { width, height } = await decode(bytes)
  return { width, height, layers: [{ name, png: bytes, x: 0, y: 0, opacity: 1, visible: true, blend: 'normal' }] }
}

/** A PNG as the browser decodes it, its numbers untouched. Throws file-invalid. */
export async function decodePng(png: Uint8Array): Promise<Rgba> {
  const bytes = new Uint8Array(png)
  try {
    const bitmap = await createImageBitmap(new Blob([bytes], { type: 'image/png' }), {
      colorSpaceConversion: 'none',
      premultiplyAlpha: 'none',
    })
    const { width, height } = bitmap
    const context = new OffscreenCanvas(width, height).getContext('2d')!
    context.drawImage(bitmap, 0, 0)
    bitmap.close()
    return { width, height, values: new Uint8Array(context.getImageData(0, 0, width, height).data.buffer) }
  } catch {
    throw new GristError('file-invalid', 'A picture in it cannot be read.')
  }
}
