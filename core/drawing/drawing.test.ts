import fc from 'fast-check'
import sharp from 'sharp'
import type { Drawing } from './drawing'
import { drawingIn, emptyDrawing, newItem, withDrawing } from './drawing'
import { textIn, withText } from './png-text'

const pixel = async () =>
  new Uint8Array(
    await sharp({ create: { width: 3, height: 2, channels: 4, background: '#80402080' } })
      .png()
      .toBuffer(),
  )

test('a text goes into a PNG that every reader still reads, and comes out again; a second one takes its place', async () => {
  const png = await pixel()
  const before = await sharp(png).raw().toBuffer()
  await fc.assert(
    fc.asyncProperty(fc.string({ unit: 'binary', maxLength: 80 }), async (text) => {
      const held = withText(withText(png, 'key', 'first'), 'key', text)
      // Lone surrogates are no text that a file can hold.
      if (text.isWellFormed()) expect(textIn(held, 'key')).toBe(text)
      expect(textIn(held, 'other')).toBeNull()
      // Checked by libpng: with a wrong sum over the chunk it would complain.
      const read = await sharp(held, { failOn: 'warning' }).raw().toBuffer()
      expect(read.equals(before)).toBe(true)
    }),
    { numRuns: 25 },
  )
  // One chunk of 12 bytes, the keyword, five zeros and the text: PNG (Third Edition), 11.3.3.4.
  expect(withText(png, 'key', 'abc').length).toBe(png.length + 12 + 3 + 5 + 3)
})

test('what is no PNG, or is cut off, has no text and takes none', async () => {
  const png = withText(await pixel(), 'key', 'text')
  expect(textIn(png.subarray(0, 50), 'key')).toBeNull()
  expect(textIn(Uint8Array.of(1, 2, 3), 'key')).toBeNull()
  expect(() => withText(Uint8Array.of(1, 2, 3), 'key', 'text')).toThrow(RangeError)
})

test('a drawing stays editable in its picture; a strange one is none', async () => {
  const empty = emptyDrawing()
  const drawing: Drawing = {
    ...empty,
    ground: '#f0ead8',
    items: (['text', 'rectangle', 'ellipse', 'frame'] as const).map((kind) => newItem(kind, empty)),
  }
  const png = await pixel()
  expect(drawingIn(withDrawing(png, drawing))).toEqual(drawing)
  expect(drawingIn(png)).toBeNull()
  expect(drawingIn(withDrawing(png, { ...drawing, width: 1e9 }))).toBeNull()
  expect(new Set(drawing.items.map(({ id }) => id)).size).toBe(4)
})
