import { channelOutput, formatOutput } from '#core/document/address'
import type { Sharpening } from '#core/document/sharpening'
import type { Field } from '#core/field/field'
import { createField, rowStart } from '#core/field/field'
import type { MaterialSession } from '#core/material/session'
import type { DisplayBytes } from '#core/preview/display'
import { displayBytes } from '#core/preview/display'

/** Bytes that fields may take while a window is made. */
const BUDGET = 1200 << 20

/** A part of a channel at the size it is delivered: `left` and `top` in its texels, which may lie beyond a border. */
export interface WindowRequest {
  readonly channel: string
  /** Width of the whole, in texels. */
  readonly width: number
  readonly left: number
  readonly top: number
  /** Size of the window, in texels. */
  readonly wide: number
  readonly high: number
  readonly sharpen: Sharpening
}

/**
 * A window of a channel as it will be delivered, whose texels are those of the whole raster: only the rows that it needs are
 * made. Throws what is wrong with the channel, size-invalid, memory-budget, cancelled.
 */
export async function evaluateWindow(
  session: MaterialSession,
  request: WindowRequest,
  signals: { readonly isCancelled: () => boolean; readonly onProgress?: (ratio: number) => void },
): Promise<DisplayBytes> {
  const { channel, width, left, wide, sharpen } = request
  const whole = session.sizeAt(width)
  const high = Math.min(request.high, whole.height)
  const band = { top: request.top, rows: high }
  const output = channelOutput(channel)
  const { fields } = await session.evaluate({
    outputs: [output],
    width,
    band,
    budgetBytes: BUDGET,
    options: { sharpen },
    ...signals,
  })
  return displayBytes(columnsOf(fields.get(formatOutput(output))!, left, Math.min(wide, whole.width)))
}

/** Columns of a field from `left`, going on at the other border; a uniform field stays as it is. */
function columnsOf(field: Field, left: number, wide: number): Field {
  const out = createField(field.type, wide, field.rows)
  for (let y = 0; y < field.rows; y++) {
    const start = rowStart(field, y)
    for (let x = 0; x < wide; x++) {
      const from = start + ((((left + x) % field.width) + field.width) % field.width)
      field.planes.forEach((plane, p) => (out.planes[p]![y * wide + x] = plane[from]!))
    }
  }
  return out
}
