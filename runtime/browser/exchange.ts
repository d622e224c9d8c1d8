import type { ExportSubject } from '#core/exchange/exported-pictures'
import type { OpenRaster } from '#core/exchange/open-raster'
import { readOpenRaster } from '#core/exchange/open-raster'
import type { Rgba } from '#core/exchange/rgba'
import type { ExchangeSignals, ExportedFile } from '#core/exchange/export-layers'
import { exportLayers, exportPicture } from '#core/exchange/export-layers'
import type { ImportedPicture, DecodePng } from '#core/exchange/compare-import'
import { compareImport } from '#core/exchange/compare-import'
import { GristError } from '#core/errors'
import type { MaterialSession } from '#core/material/session'

/** What is exported, and how wide. */
export type ExportRequest = ExportSubject & { readonly width: number }

/** A file from an image editor. */
export interface EditorFile {
  readonly name: string
  readonly bytes: Uint8Array
}

type Signals = Required<ExchangeSignals>

export const exportForEditor = (
  session: MaterialSession,
  wanted: ExportRequest,
  signals: Signals,
): Promise<ExportedFile> =>
  'layers' in wanted
    ? exportLayers(session, wanted.layers, wanted.width, signals)
    : exportPicture(session, wanted.picture, wanted.title, wanted.width, signals)

/** The pictures of a file: OpenRaster, or a PNG whose name has its tag. Throws file-invalid, file-unsupported. */
export async function importFromEditor(
  session: MaterialSession,
  { name, bytes }: EditorFile,
  decode: DecodePng,
  signals: Signals,
): Promise<ImportedPicture[]> {
  const found = await compareImport(session, await rasterOf(name, bytes, decode), decode, signals)
  if (found.length === 0)
    throw new GristError(
      'file-unsupported',
      'No layer has the name that it was exported with: “… [cell:rust:colour #1a2b3c4d]”. Keep that part of the names.',
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
