import type { Channel } from '../document/channels'
import { isTangentNormal } from '../document/channels'
import type { Allocate, Field } from '../field/field'
import { createField, plainMemory, rowStart } from '../field/field'
import { mipSides } from './bytes/mip-sides'

/** What of a file's mips is other than a mean of texels. */
export interface MipRulesOfChannels {
  /** Opacity keeps the share of texels that a cut-out shows at one half. */
  readonly keepsCoverage: boolean
}

/** Memory that threads share, where they are to read levels. */
export interface MipMemory {
  readonly allocate: Allocate
  readonly free: (region: ArrayBufferView) => void
}

const OWN_MEMORY: MipMemory = { allocate: plainMemory, free: () => {} }

/** A level of a mip chain: whole channels, as packing takes them. */
export interface MipLevel {
  readonly level: number
  readonly width: number
  readonly height: number
  readonly fields: ReadonlyMap<string, Field>
}

const HALF = 0.5

/**
 * Mips of channels before they are packed and rounded: colour in linear light, as fields hold it; normals brought back to length 1 in
 * each level, the mean before that is kept from level to level; roughness, where that is asked for, grown by the normal detail that was lost
 * (M. Toksvig, "Mipmapping Normal Maps", 2005, by its factor on the exponent 2/α² − 2 with α = roughness²). Sides: Vulkan 1.3, section 12.3.
 */
export class MipChain {
  private readonly regions: Uint8Array[] = []
  private readonly first: ReadonlyMap<string, Field>
  private readonly shown = { texels: 0, covered: 0 }

  constructor(
    private readonly width: number,
    private readonly height: number,
    private readonly channels: readonly Channel[],
    private readonly rules: MipRulesOfChannels,
    private readonly memory: MipMemory = OWN_MEMORY,
  ) {
    const [w, h] = this.sides[1] ?? [1, 1]
    this.first = new Map(channels.map(({ id, type }) => [id, this.create(type, w, h)]))
  }

  /** Gives back the memory of all levels. */
  dispose(): void {
    for (const region of this.regions.splice(0)) this.memory.free(region)
  }

  private readonly create = (type: Channel['type'], width: number, height: number): Field =>
    createField(type, width, height, { top: 0, rows: height }, (bytes) => {
      const region = this.memory.allocate(bytes)
      this.regions.push(region)
      return region
    })

  /** The channel whose coverage is kept, if any. */
  private get cutOut(): Channel | undefined {
    return this.rules.keepsCoverage ? this.channels.find(({ mipsKeep }) => mipsKeep === 'coverage') : undefined
  }

  private get sides(): [number, number][] {
    return mipSides(this.width, this.height)
  }

  /** Takes rows `top` to `top + rows` of all channels; runs begin at even rows. */
  add(fields: ReadonlyMap<string, Field>, top: number, rows: number): void {
    for (const { id } of this.channels) halve(fields.get(id)!, this.first.get(id)!, top, top + rows)
    const cut = this.cutOut
    if (cut) {
      const { covered, texels } = coverageOf(fields.get(cut.id)!, top, top + rows)
      this.shown.covered += covered
      this.shown.texels += texels
    }
  }

  /** All levels after the first, once all rows are there. `roughens` adjusts roughness; the channels include normals then. */
  *levels({ roughens }: { readonly roughens: boolean }): Generator<MipLevel> {
    let means = this.first
    for (let level = 1; level < this.sides.length; level++) {
      const [width, height] = this.sides[level]!
      if (level > 1) {
        const smaller = new Map(this.channels.map(({ id, type }) => [id, this.create(type, width, height)]))
        for (const { id } of this.channels) {
          const from = means.get(id)!
          halve(from, smaller.get(id)!, 0, from.height)
        }
        means = smaller
      }
      yield { level, width, height, fields: this.finished(means, roughens) }
    }
  }

  private finished(means: ReadonlyMap<string, Field>, roughens: boolean): ReadonlyMap<string, Field> {
    const out = new Map(means)
    for (const { id, type } of this.channels)
      if (type === 'normal') out.set(id, unitLength(means.get(id)!, this.create))
    const normal = this.channels.find(({ id }) => isTangentNormal(id))
    const mean = normal && means.get(normal.id)
    const rough = this.channels.find(({ mipsKeep }) => mipsKeep === 'highlight')
    if (roughens && mean && rough) out.set(rough.id, roughened(means.get(rough.id)!, mean, this.create))
    const cut = this.cutOut
    const { covered, texels } = this.shown
    if (cut && covered > 0 && covered < texels)
      out.set(cut.id, withCoverage(means.get(cut.id)!, covered / texels, this.create))
    return out
  }
}

/** Channels of a size at one mip level, before they are packed; level 0 is what they are. */
export function channelsAtMip(
  fields: ReadonlyMap<string, Field>,
  { width, height, level }: { readonly width: number; readonly height: number; readonly level: number },
  channels: readonly Channel[],
  { roughens, ...rules }: MipRulesOfChannels & { readonly roughens: boolean },
): MipLevel {
  if (level === 0) return { level, width, height, fields }
  const chain = new MipChain(
    width,
    height,
    channels.filter(({ id }) => fields.has(id)),
    rules,
  )
  chain.add(fields, 0, height)
  for (const made of chain.levels({ roughens })) if (made.level === level) return made
  throw new RangeError(`A picture of ${width} × ${height} has no mip ${level}.`)
}

/** Means of 2 × 2 texels of rows `from` to `to` into the rows that they make; a side of one texel is its own neighbour. */
function halve(field: Field, out: Field, from: number, to: number): void {
  for (let y = Math.floor(from / 2); y < Math.min(out.height, Math.ceil(to / 2)); y++) {
    const above = rowStart(field, 2 * y)
    const below = rowStart(field, Math.min(field.height - 1, 2 * y + 1))
    const target = rowStart(out, y)
    field.planes.forEach((plane, p) => {
      const into = out.planes[p]!
      for (let x = 0; x < out.width; x++) {
        const right = Math.min(field.width - 1, 2 * x + 1)
        into[target + x] =
          (plane[above + 2 * x]! + plane[above + right]! + plane[below + 2 * x]! + plane[below + right]!) / 4
      }
    })
  }
}

type Create = (type: Channel['type'], width: number, height: number) => Field

function unitLength(field: Field, create: Create): Field {
  const out = create('normal', field.width, field.height)
  const [x, y, z] = field.planes as [Float32Array, Float32Array, Float32Array]
  for (let i = 0; i < x.length; i++) {
    const length = Math.sqrt(x[i]! * x[i]! + y[i]! * y[i]! + z[i]! * z[i]!)
    const by = length > 1e-6 ? 1 / length : 0
    out.planes[0]![i] = x[i]! * by
    out.planes[1]![i] = y[i]! * by
    out.planes[2]![i] = by === 0 ? 1 : z[i]! * by
  }
  return out
}

/** Roughness of a highlight that is spread by normals whose mean is shorter than 1. */
function roughened(roughness: Field, normal: Field, create: Create): Field {
  const out = create('grey', roughness.width, roughness.height)
  const [x, y, z] = normal.planes as [Float32Array, Float32Array, Float32Array]
  const values = roughness.planes[0]!
  for (let i = 0; i < values.length; i++) {
    const length = Math.min(1, Math.sqrt(x[i]! * x[i]! + y[i]! * y[i]! + z[i]! * z[i]!))
    out.planes[0]![i] = toksvigRoughness(values[i]!, length)
  }
  return out
}

/** Roughness where the mean of normals has a length, 0–1. */
export function toksvigRoughness(roughness: number, length: number): number {
  const alpha = Math.max(1e-4, roughness * roughness)
  const exponent = Math.max(0, 2 / (alpha * alpha) - 2)
  const factor = length / (length + exponent * (1 - length))
  return Math.min(1, Math.sqrt(Math.sqrt(2 / (exponent * factor + 2))))
}

function coverageOf(opacity: Field, from: number, to: number): { covered: number; texels: number } {
  let covered = 0
  for (let y = from; y < to; y++) {
    const at = rowStart(opacity, y)
    for (let x = 0; x < opacity.width; x++) if (opacity.planes[0]![at + x]! >= HALF) covered++
  }
  return { covered, texels: (to - from) * opacity.width }
}

/** Opacity times what makes as many texels show as before. */
function withCoverage(opacity: Field, share: number, create: Create): Field {
  const values = opacity.planes[0]!
  let [low, high] = [0, 16]
  for (let round = 0; round < 24; round++) {
    const by = (low + high) / 2
    let covered = 0
    for (const v of values) if (v * by >= HALF) covered++
    if (covered < share * values.length) low = by
    else high = by
  }
  const out = create('grey', opacity.width, opacity.height)
  values.forEach((v, i) => (out.planes[0]![i] = Math.min(1, v * high)))
  return out
}
