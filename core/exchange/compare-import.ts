import type { Output } from '../document/address'
import { channelOutput, formatOutput } from '../document/address'
import { GristError } from '../errors'
import type { MaterialSession } from '../material/session'
import type { PictureTag } from './exported-pictures'
import { channelOf, isThere, keyFor, tagOf } from './exported-pictures'
import type { OpenRaster, RasterLayer } from './open-raster'
import type { Rgba } from './rgba'
import { pngOf, rgbaOf } from './rgba'
import type { ExchangeSignals } from './export-layers'

/** Decodes a PNG into bytes, opacity apart from colour. */
export type DecodePng = (png: Uint8Array) => Promise<Rgba>

/** Bytes that fields may take meanwhile. */
const BUDGET = 1200 << 20
/** Steps of 255 by which a texel may differ and still be unchanged: rounding on the way there and back. */
const ROUNDING = 2

/** A picture that is imported, and how it compares. */
export interface ImportedPicture {
  readonly tag: PictureTag
  readonly title: string
  /**
   * As it is in the material; changed outside; different, and the material has changed since the export, so that it is to be asked about; or
   * what it is of no longer exists.
   */
  readonly state: 'unchanged' | 'changed' | 'conflict' | 'missing'
  /** Share of its texels that differ from what is here now. */
  readonly changed: number
  /** What is to be put in its place, PNG: values, and opacity that is the layer's mask. */
  readonly values: Uint8Array | null
  readonly opacity: Uint8Array | null
}

/** Compares imported layers with the material as it is. Layers without a tag are left out. Throws file-invalid, what evaluating throws. */
export async function compareImport(
  session: MaterialSession,
  raster: OpenRaster,
  decode: DecodePng,
  signals: ExchangeSignals = {},
): Promise<ImportedPicture[]> {
  const tagged = raster.layers.flatMap((layer) => {
    const tag = tagOf(layer.name)
    return tag ? [{ layer, tag, title: layer.name.replace(/\s*\[[^[\]]*\].*$/, '') }] : []
  })
  const there = tagged.filter(({ tag }) => canBeMade(session, tag))
  const outputs = there.flatMap(({ tag }) => (tag.withMask ? [tag.output, maskOf(tag.output)] : [tag.output]))
  const keys = session.keysOf(outputs)
  const size = session.sizeAt(raster.width)
  if (size.height !== raster.height)
    throw new GristError(
      'file-unsupported',
      `Expected a picture of the whole tile, ${size.width} × ${size.height} at this width, but received ${raster.width} × ${raster.height}. It may be scaled, but not cut or stretched.`,
    )
  const { isCancelled = () => false, onProgress = () => {}, pause = async () => {} } = signals
  const { fields } =
    outputs.length > 0
      ? await session.evaluate({ outputs, width: raster.width, budgetBytes: BUDGET, isCancelled, onProgress })
      : { fields: new Map<string, never>() }
  const found: ImportedPicture[] = []
  for (const { layer, tag, title } of tagged) {
    if (!there.some((one) => one.tag === tag)) {
      found.push({ tag, title, state: 'missing', changed: 1, values: null, opacity: null })
      continue
    }
    await pause()
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    const field = fields.get(formatOutput(tag.output))!
    const mask = tag.withMask ? fields.get(formatOutput(maskOf(tag.output)))! : null
    const channel = channelOf(session.document, tag.output)
    const ours = rgbaOf(field, mask, channel, Uint8Array)
    const theirs = onCanvas(layer, await decode(layer.png), raster)
    const differ = differences(ours, theirs)
    // Where something was wiped out that has no mask, what is here shows: nothing changes.
    const [values, opacity] = [differ.values, tag.withMask ? differ.opacity : 0]
    const state =
      values + opacity === 0
        ? 'unchanged'
        : tag.key === keyFor(keys.get(formatOutput(tag.output))!)
          ? 'changed'
          : 'conflict'
    found.push({
      ...{ tag, title, state },
      changed: Math.max(values, opacity),
      values: values > 0 ? valuesOf(layer, theirs, ours, channel?.type === 'colour') : null,
      opacity: opacity > 0 ? pngOf(opacityOf(theirs), false) : null,
    })
  }
  return found
}

const maskOf = (output: Output): Output =>
  'layer' in output ? { kind: 'mask', layer: output.layer } : channelOutput('')

function canBeMade(session: MaterialSession, { output, withMask }: PictureTag): boolean {
  if (!isThere(session.document, output)) return false
  const outputs = withMask ? [output, maskOf(output)] : [output]
  return session.keysOf(outputs).size === outputs.length
}

/** A layer on the whole canvas; image editors cut away what is clear around it. */
function onCanvas({ x, y }: RasterLayer, own: Rgba, { width, height }: OpenRaster): Rgba {
  if (x === 0 && y === 0 && own.width === width && own.height === height) return own
  const values = new Uint8Array(width * height * 4)
  for (let row = Math.max(0, y); row < Math.min(height, y + own.height); row++)
    for (let column = Math.max(0, x); column < Math.min(width, x + own.width); column++) {
      const from = ((row - y) * own.width + column - x) * 4
      for (let c = 0; c < 4; c++) values[(row * width + column) * 4 + c] = own.values[from + c]!
    }
  return { width, height, values }
}

/** Shares of texels whose values, and whose opacity, differ; what is clear has no values. */
function differences(ours: Rgba, theirs: Rgba): { values: number; opacity: number } {
  const count = ours.width * ours.height
  let [values, opacity] = [0, 0]
  for (let i = 0; i < count; i++) {
    const at = i * 4
    const shows = theirs.values[at + 3]!
    if (Math.abs(shows - ours.values[at + 3]!) > ROUNDING) opacity++
    for (let c = 0; c < 3; c++)
      if ((Math.abs(theirs.values[at + c]! - ours.values[at + c]!) * shows) / 255 > ROUNDING) {
        values++
        break
      }
  }
  return { values: values / count, opacity: opacity / count }
}

/** The picture itself where it covers all; else over what was there before, which shows where it is clear. */
function valuesOf({ png, x, y }: RasterLayer, theirs: Rgba, ours: Rgba, srgb: boolean): Uint8Array {
  const { width, height, values } = theirs
  let covers = x === 0 && y === 0
  for (let i = 3; i < values.length && covers; i += 4) covers = values[i] === 255
  if (covers) return png
  const out = new Uint8Array(values.length)
  for (let at = 0; at < values.length; at += 4) {
    // With a mask of its own a texel's colour counts wherever anything shows of it; else it is mixed with what was there.
    const shows = ours.values[at + 3] === 255 ? values[at + 3]! / 255 : values[at + 3]! > 0 ? 1 : 0
    for (let c = 0; c < 3; c++) out[at + c] = Math.round(values[at + c]! * shows + ours.values[at + c]! * (1 - shows))
    out[at + 3] = 255
  }
  return pngOf({ width, height, values: out }, srgb)
}

/** Opacity as a grey picture. */
function opacityOf({ width, height, values }: Rgba): Rgba {
  const out = new Uint8Array(values.length)
  for (let at = 0; at < values.length; at += 4) {
    out.fill(values[at + 3]!, at, at + 3)
    out[at + 3] = 255
  }
  return { width, height, values: out }
}
