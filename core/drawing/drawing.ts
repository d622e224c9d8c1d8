import { z } from 'zod'
import { textIn, withText } from './png-text'

/** What a picture of a drawing carries itself under, so that it stays editable. */
const KEYWORD = 'amber-grist/drawing'
/** The most bytes of a picture that is put into a drawing. */
const MAX_PICTURE = 2_000_000

const hex = z.string().regex(/^#[0-9a-fA-F]{6}$/)
const side = z.number().min(1).max(8192)
const place = {
  id: z.string().max(32),
  x: z.number().min(-8192).max(16384),
  y: z.number().min(-8192).max(16384),
  rotation: z.number().default(0),
  fill: hex.default('#000000'),
}

/** A thing of a drawing: pixels from its upper left corner, degrees clockwise. */
const item = z.discriminatedUnion('kind', [
  z.object({
    ...place,
    kind: z.literal('text'),
    text: z.string().max(500),
    size: z.number().min(1).max(4096),
    bold: z.boolean().default(true),
    spacing: z.number().min(-200).max(1000).default(0),
  }),
  z.object({ ...place, kind: z.literal('rectangle'), width: side, height: side, corner: z.number().min(0).default(0) }),
  z.object({ ...place, kind: z.literal('ellipse'), width: side, height: side }),
  z.object({ ...place, kind: z.literal('frame'), width: side, height: side, stroke: z.number().min(1).max(1024) }),
  z.object({
    ...place,
    kind: z.literal('picture'),
    width: side,
    height: side,
    source: z.string().startsWith('data:image/').max(MAX_PICTURE),
  }),
])

const drawing = z.object({
  format: z.literal('amber-grist/drawing'),
  version: z.literal(1),
  width: z.int().min(16).max(4096),
  height: z.int().min(16).max(4096),
  /** What lies behind; null is nothing, so that it is cut out. */
  ground: hex.nullable(),
  items: z.array(item).max(256),
})

/** Letters, figures and shapes that make a picture. */
export type Drawing = z.output<typeof drawing>
export type DrawingItem = Drawing['items'][number]
export type DrawingKind = DrawingItem['kind']

export const emptyDrawing = (): Drawing => ({
  format: 'amber-grist/drawing',
  version: 1,
  width: 1024,
  height: 512,
  ground: null,
  items: [],
})

let made = 0

/** A new thing in the middle of a drawing. */
export function newItem(kind: Exclude<DrawingKind, 'picture'>, { width, height }: Drawing): DrawingItem {
  const id = `${kind}-${Date.now().toString(36)}-${++made}`
  const half = { width: Math.round(width / 2), height: Math.round(height / 2) }
  const at = { id, x: Math.round(width / 4), y: Math.round(height / 4), rotation: 0, fill: '#1d1d1c' }
  switch (kind) {
    case 'text':
      return { ...at, kind, text: '7', size: half.height, bold: true, spacing: 0 }
    case 'rectangle':
      return { ...at, kind, ...half, corner: 0 }
    case 'ellipse':
      return { ...at, kind, ...half }
    case 'frame':
      return { ...at, kind, ...half, stroke: Math.max(2, Math.round(height / 40)) }
  }
}

/** The picture of a drawing with the drawing in it. Throws RangeError where it is no PNG. */
export const withDrawing = (png: Uint8Array, of: Drawing): Uint8Array<ArrayBuffer> =>
  withText(png, KEYWORD, JSON.stringify(of))

/** The drawing that a picture carries; null where it carries none that can be read. */
export function drawingIn(file: Uint8Array): Drawing | null {
  const text = textIn(file, KEYWORD)
  if (text === null) return null
  try {
    return drawing.parse(JSON.parse(text))
  } catch {
    return null
  }
}
