import type { Drawing } from '#core/drawing/drawing'
import { emptyDrawing, withDrawing } from '#core/drawing/drawing'

/** Pixels along the longer side of the picture that is made of an SVG file. */
const LONGER = 2048
/** Bytes of an SVG file that a drawing holds. */
const MOST = 1_400_000

export const isSvg = ({ name, type }: Pick<File, 'name' | 'type'>): boolean =>
  type === 'image/svg+xml' || /\.svg$/i.test(name)

/** Piece by piece: a call takes no million arguments. */
function base64Of(bytes: Uint8Array): string {
  let text = ''
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192))
  return btoa(text)
}

/** Size of the picture of something so large: as it is in shape, LONGER along its longer side. */
export function drawnSize(width: number, height: number): { width: number; height: number } {
  const by = LONGER / Math.max(width, height)
  return { width: Math.max(16, Math.round(width * by)), height: Math.max(16, Math.round(height * by)) }
}

/** An SVG file as a drawing: its picture, with the file in it, so that it stays editable. Throws where it cannot be read. */
export async function drawingOfSvg(file: File): Promise<File> {
  if (file.size > MOST) throw new Error(`${file.name} has more than 1.4 MB, the most of an SVG file.`)
  const text = await file.text()
  const source = `data:image/svg+xml;base64,${base64Of(new TextEncoder().encode(text))}`
  const image = new Image()
  image.src = source
  try {
    await image.decode()
  } catch {
    throw new Error(`${file.name} cannot be read as an SVG picture.`)
  }
  const size = drawnSize(image.naturalWidth || LONGER, image.naturalHeight || LONGER)
  const canvas = Object.assign(document.createElement('canvas'), size)
  canvas.getContext('2d')!.drawImage(image, 0, 0, size.width, size.height)
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'))
  if (!blob) throw new Error(`${file.name} is too large to be drawn.`)
  const drawing: Drawing = {
    ...emptyDrawing(),
    ...size,
    items: [{ id: 'svg', kind: 'picture', x: 0, y: 0, rotation: 0, fill: '#000000', ...size, source }],
  }
  const bytes = withDrawing(new Uint8Array(await blob.arrayBuffer()), drawing)
  return new File([bytes], file.name.replace(/\.svg$/i, '.png'), { type: 'image/png' })
}
