import { linearToHex } from '#core/colour/srgb'
import type { Output } from '#core/document/address'
import { channelOutput, formatOutput } from '#core/document/address'
import type { Channel } from '#core/document/channels'
import { channelsOf } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import type { GristError } from '#core/errors'
import type { Field } from '#core/field/field'
import type { PartialReport, PartialResult } from '#core/material/session'
import { displayBytes, reduceField, valuesAt, weightedMean } from '#core/preview/display'
import { histogramOf, spreadOf } from '#core/preview/histogram'
import { ownTexelsOf } from '#core/preview/own-texels'
import { LOOK_CHANNELS } from '#core/preview/looks'
import type { Fault, Preview, PreviewRequest, ProbedValue, SwatchPicture, Textures } from './protocol'
import type { TextureMaker } from './textures'
import { makeTexture, texturesOf } from './textures'

/** Longer side of a swatch, in texels. */
const SWATCH = 64

/** The outputs that a request is about: all channels, and whatever else it names. */
export function wantedOutputs(
  { shown, overlay = null, look, swatches, layerColours, histograms, within = null, later = [] }: PreviewRequest,
  document: MaterialDocument,
): Output[] {
  const outputs = new Map<string, Output>()
  const add = (output: Output | null): void => {
    if (output) outputs.set(formatOutput(output), output)
  }
  for (const { id } of channelsOf(document)) add(channelOutput(id))
  for (const id of look ? LOOK_CHANNELS[look] : []) add(channelOutput(id))
  for (const output of [shown, overlay, within, ...histograms, ...swatches]) add(output)
  for (const layer of layerColours) add({ kind: 'mask', layer })
  for (const channel of later) outputs.delete(formatOutput(channelOutput(channel)))
  return [...outputs.values()]
}

const faultOf = ({ code, detail, place: { node, layer, dial, parameter } }: GristError, missing: boolean): Fault => ({
  code,
  message: detail,
  missing,
  parameter,
  node,
  layer,
  dial,
})

/** The mean of a field's first plane over a part's own texels (ownTexelsOf); null where all count, or there are none. */
function meanOver(field: Field, nearest: Int32Array | null): number | null {
  const own = ownTexelsOf(field, nearest)
  if (!own) return null
  const plane = field.planes[0]!
  let sum = 0
  let count = 0
  for (let i = 0; i < own.length; i++) {
    if (own[i] !== i) continue
    sum += plane[i]!
    count++
  }
  return count > 0 ? sum / count : null
}

/** What a page has of one view, so that it is sent what changed. */
export class SentPreview {
  /** By slot or swatch: the content's key, and the width it was made at. */
  private readonly sent = new Map<string, { key: string; width: number }>()
  /** Mean colours by layer, and the key of what they are means of. */
  private colours = new Map<string, { key: string; colour: string | null }>()
  /** Channels as last evaluated, for the probe. */
  private channels: readonly { channel: Channel; field: Field; key: string }[] = []
  private histograms: Preview['histograms'] = {}

  /** Fields that the probe reads. */
  get fields(): Field[] {
    return this.channels.map(({ field }) => field)
  }

  /** The answer to a request: what the page lacks of what was made; `own` tells of a part which texels are its own (PatchSet.nearest). */
  answer(
    request: PreviewRequest,
    document: MaterialDocument,
    made: PartialResult,
    own: Int32Array | null,
  ): Omit<Preview, 'milliseconds'> {
    this.keepForProbe(request, channelsOf(document), made)
    this.histograms = histogramsOf(request, made.fields, own)
    const [first] = made.fields.values()
    return {
      ...toldOf(made),
      width: request.width,
      height: first?.height ?? request.width,
      textures: this.textures(request, made),
      swatches: this.swatches(request, made, own),
      layerColours: this.layerColours(request, made, own),
      histograms: this.histograms,
    }
  }

  /** Of the textures that can be made of outputs with these keys: those that the page lacks at a width. */
  lackingOf(makers: readonly TextureMaker[], keys: ReadonlyMap<string, string>, width: number): TextureMaker[] {
    return makers.filter(({ slot, outputs }) => this.lacks(slot, keyOf(keys, outputs), width))
  }

  /** The answer to a request whose textures were made band by band; all else stays as a smaller preview gave it. */
  answerLarge(
    { width }: PreviewRequest,
    height: number,
    lacking: readonly TextureMaker[],
    made: PartialReport & { readonly textures: Textures },
  ): Omit<Preview, 'milliseconds'> {
    const textures: Textures = {}
    for (const { slot, outputs } of lacking) {
      const key = keyOf(made.keys, outputs)
      const picture = made.textures[slot]
      if (!picture) continue
      this.sent.set(slot, { key, width })
      textures[slot] = { ...picture, key: `${key}@${width}` }
    }
    return { ...toldOf(made), width, height, textures, swatches: {}, layerColours: {}, histograms: this.histograms }
  }

  /** Values of every channel at u, v (in tiles, v down), as last evaluated. */
  probe(u: number, v: number): ProbedValue[] {
    return this.channels.map(({ channel: { id, type }, field }) => ({
      channel: id,
      type,
      values: valuesAt(field, u, v),
    }))
  }

  private keepForProbe(
    { later = [] }: PreviewRequest,
    channels: readonly Channel[],
    { fields, keys }: PartialResult,
  ): void {
    const before = this.channels
    this.channels = channels.flatMap((channel) => {
      const { id } = channel
      const name = formatOutput(channelOutput(id))
      const known = before.find((one) => one.channel.id === id)
      const field = fields.get(name)
      if (!field) return known && later.includes(id) ? [{ ...known, channel }] : []
      const key = keyOf(keys, [name])
      // The same is read where it was made larger.
      return known?.key === key && known.field.width > field.width ? [{ ...known, channel }] : [{ channel, field, key }]
    })
  }

  /** Whether the page lacks this: it has other content, or the same at a lower width. */
  private lacks(slot: string, key: string, width: number): boolean {
    const sent = this.sent.get(slot)
    return !sent || sent.key !== key || sent.width < width
  }

  private textures({ lit, look, shown, overlay, width }: PreviewRequest, { fields, keys }: PartialResult): Textures {
    const out: Textures = {}
    for (const maker of texturesOf(fields.keys(), {
      lit,
      look,
      shown: shown && formatOutput(shown),
      overlay: overlay && formatOutput(overlay),
    })) {
      const { slot } = maker
      const key = keyOf(keys, maker.outputs)
      if (!this.lacks(slot, key, width)) continue
      this.sent.set(slot, { key, width })
      out[slot] = { key: `${key}@${width}`, ...makeTexture(maker, fields) }
    }
    return out
  }

  private swatches(
    { swatches, width, later = [] }: PreviewRequest,
    { fields, keys }: PartialResult,
    texels: Int32Array | null,
  ): Preview['swatches'] {
    const out: Record<string, SwatchPicture> = {}
    if (swatches.length === 0) return out
    const names = swatches.map(formatOutput)
    const wanted = new Set(names.map((name) => `swatch ${name}`))
    for (const slot of this.sent.keys()) if (slot.startsWith('swatch ') && !wanted.has(slot)) this.sent.delete(slot)
    for (const name of names) {
      const field = fields.get(name)
      if (!field) {
        if (!later.includes(name)) this.sent.delete(`swatch ${name}`)
        continue
      }
      const key = keyOf(keys, [name])
      if (!this.lacks(`swatch ${name}`, key, width)) continue
      const small = reduceField(field, SWATCH)
      this.sent.set(`swatch ${name}`, { key, width })
      const mean = field.ids ? 0 : (meanOver(field, texels) ?? histogramOf(small, 1).planes[0]!.mean)
      out[name] = { key, mean, ...displayBytes(small) }
    }
    return out
  }

  /** What a layer looks like in one colour: the mean of what it puts into colour, where its mask lets it show. */
  private layerColours(
    { layerColours }: PreviewRequest,
    { fields, keys }: PartialResult,
    nearest: Int32Array | null,
  ): Preview['layerColours'] {
    if (layerColours.length === 0) return {}
    const known = this.colours
    this.colours = new Map()
    for (const layer of layerColours) {
      const own: readonly Output[] = [
        { kind: 'cell', layer, channel: 'colour' },
        { kind: 'layer', layer, channel: 'colour' },
      ]
      const name = own.map(formatOutput).find((one) => fields.has(one))
      if (!name) continue
      const masked = formatOutput({ kind: 'mask', layer })
      const key = keyOf(keys, [name, masked])
      const before = known.get(layer)
      if (before?.key === key) {
        this.colours.set(layer, before)
        continue
      }
      const mean = meanColour(fields.get(name)!, fields.get(masked), nearest)
      this.colours.set(layer, { key, colour: mean && linearToHex(mean) })
    }
    return Object.fromEntries(layerColours.map((layer) => [layer, this.colours.get(layer)?.colour ?? null]))
  }
}

const toldOf = ({ faults, keys, report }: PartialReport): Pick<Preview, 'faults' | 'evaluated' | 'reused'> => ({
  faults: Object.fromEntries([...faults].map(([output, error]) => [output, faultOf(error, !keys.has(output))])),
  evaluated: report.evaluated.length,
  reused: report.reused,
})

/** Key of what outputs hold, whatever the width. */
const keyOf = (keys: ReadonlyMap<string, string>, outputs: readonly string[]): string =>
  outputs.map((output) => keys.get(output) ?? '-').join('+')

function meanColour(
  colour: Field,
  mask: Field | undefined,
  nearest: Int32Array | null,
): [number, number, number] | null {
  if (colour.stride === 0) return weightedMean({ ...colour, width: 1, height: 1 }, null)
  const over = mask && mask.stride !== 0 ? mask : null
  return ownTexelsOf(colour, nearest)
    ? weightedMean(colour, over, nearest)
    : weightedMean(reduceField(colour, SWATCH), over && reduceField(over, SWATCH))
}

function histogramsOf(
  { histograms, within = null }: PreviewRequest,
  fields: ReadonlyMap<string, Field>,
  nearest: Int32Array | null,
): Preview['histograms'] {
  const mask = (within && fields.get(formatOutput(within))) ?? null
  return Object.fromEntries(
    histograms.map(formatOutput).flatMap((name) => {
      const field = fields.get(name)
      return field && !field.ids ? [[name, spreadOf(field, mask, undefined, nearest)]] : []
    }),
  )
}
