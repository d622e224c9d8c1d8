import { produce } from 'immer'
import type { Dial, MaterialDocument } from '../document/document'
import { GristError } from '../errors'
import type { Allocate, Field } from '../field/field'
import { createField, plainMemory, rowStart } from '../field/field'
import type { Frames } from './packing'

/*
 * Sheets of frames: the material again and again, side by side and row by row, while one of its dials goes from end to end.
 */

/** The dial that frames turn. Throws packing-invalid where the material has none of that name that holds a number. */
export function frameDial({ dials, name }: MaterialDocument, { dial: wanted }: Pick<Frames, 'dial'>): Dial {
  const numbers = dials.filter(({ kind, shared }) => (kind === 'number' || kind === 'whole') && shared === undefined)
  const fold = (text: string): string => text.trim().toLowerCase()
  const found = numbers.find(({ id, label }) => id === wanted || fold(label) === fold(wanted))
  if (found) return found
  throw new GristError(
    'packing-invalid',
    `The frames of this packing turn a dial called “${wanted}”, and the material has no such number dial. ` +
      (numbers.length > 0
        ? `Choose one of its own in the packing: ${numbers.map(({ label }) => label).join(', ')}.`
        : 'Make one, or take another packing.'),
    { document: name },
  )
}

/** Width of one frame of a sheet. Throws size-invalid where the sheet's width is no whole number of frames. */
export function frameWidth(width: number, { columns }: Pick<Frames, 'columns'>): number {
  if (width % columns !== 0)
    throw new GristError('size-invalid', `Expected a width that ${columns} frames fill but received ${width} texels.`)
  return width / columns
}

/** The material at each frame, in order: the first with the dial at its least, the last at its greatest, or a step before it. */
export function frameDocuments(document: MaterialDocument, frames: Frames): MaterialDocument[] {
  const { id, kind, min = 0, max = 1 } = frameDial(document, frames)
  const count = frames.columns * frames.rows
  const steps = Math.max(1, frames.loops ? count : count - 1)
  return Array.from({ length: count }, (_, k) => {
    const value = min + ((max - min) * k) / steps
    return produce(document, (draft) => {
      draft.dials.find((dial) => dial.id === id)!.value = kind === 'whole' ? Math.round(value) : value
    })
  })
}

/** Sheets that are filled frame by frame. */
export class FrameSheets {
  readonly fields = new Map<string, Field>()

  constructor(
    private readonly frames: Pick<Frames, 'columns' | 'rows'>,
    private readonly frame: { readonly width: number; readonly height: number },
    private readonly allocate: Allocate = plainMemory,
  ) {}

  /** Puts the fields of a frame into its place; they may go afterwards. */
  add(index: number, of: ReadonlyMap<string, Field>): void {
    const { columns, rows } = this.frames
    const { width, height } = this.frame
    const [left, top] = [(index % columns) * width, Math.floor(index / columns) * height]
    for (const [name, field] of of) {
      const sheet =
        this.fields.get(name) ?? createField(field.type, width * columns, height * rows, undefined, this.allocate)
      this.fields.set(name, sheet)
      for (let y = 0; y < height; y++) {
        const from = rowStart(field, y)
        field.planes.forEach((plane, p) =>
          sheet.planes[p]!.set(plane.subarray(from, from + width), rowStart(sheet, top + y) + left),
        )
      }
    }
  }
}
