import type { DisplayBytes } from '#core/preview/display'
import { displayBytes } from '#core/preview/display'
import type { Field } from '#core/field/field'
import { rowStart } from '#core/field/field'
import { toHalf } from '#core/texture/bytes/half'
import type { TexturePicture, TextureSlot } from './protocol'

/** A texture that can be made of fields: which outputs it shows, and how. */
export interface TextureMaker {
  readonly slot: TextureSlot
  readonly outputs: readonly string[]
  make(): Omit<TexturePicture, 'key'>
}

/** The textures of a lit material and of one output (its text) seen unlit, as far as there are fields for them. */
export function texturesOf(
  fields: ReadonlyMap<string, Field>,
  { lit, shown }: { lit: boolean; shown: string | null },
): TextureMaker[] {
  const of = (output: string): Field => fields.get(output)!
  const bytes = (slot: TextureSlot, output: string): TextureMaker => ({
    slot,
    outputs: [output],
    make: () => displayBytes(of(output), true),
  })
  const makers: TextureMaker[] = []
  if (shown) makers.push(bytes('shown', shown))
  if (lit)
    makers.push(
      {
        slot: 'colour',
        outputs: ['colour', 'opacity'],
        make: () => joined(of('colour'), [null, null, null, of('opacity')]),
      },
      bytes('normal', 'normal'),
      {
        slot: 'surface',
        outputs: ['roughness', 'metallic'],
        make: () => joined(null, [null, of('roughness'), of('metallic'), null]),
      },
      bytes('occlusion', 'occlusion'),
      { slot: 'height', outputs: ['height'], make: () => halfFloats(of('height')) },
      bytes('emission', 'emission'),
    )
  return makers.filter(({ outputs }) => outputs.every((output) => fields.has(output)))
}

/** A picture with single planes taken from grey fields. */
function joined(base: Field | null, planes: readonly (Field | null)[]): DisplayBytes {
  const given = [base, ...planes].filter((field) => field !== null)
  const full = given.find((field) => field.stride !== 0) ?? given[0]!
  const wide = (field: Field): DisplayBytes => displayBytes(field, true)
  const width = full.stride === 0 ? 1 : full.width
  const height = full.stride === 0 ? 1 : full.height
  const pixels = new Uint8ClampedArray(width * height * 4).fill(255)
  const write = (picture: DisplayBytes, from: number, to: number): void => {
    const one = picture.width === 1 && picture.height === 1
    for (let i = 0; i < width * height; i++) pixels[i * 4 + to] = picture.pixels[(one ? 0 : i * 4) + from]!
  }
  if (base) {
    const picture = wide(base)
    for (let c = 0; c < 3; c++) write(picture, c, c)
  }
  planes.forEach((field, to) => field && write(wide(field), 0, to))
  return { width, height, pixels }
}

function halfFloats(field: Field): Omit<TexturePicture, 'key'> {
  const uniform = field.stride === 0
  const width = uniform ? 1 : field.width
  const height = uniform ? 1 : field.height
  const pixels = new Uint16Array(width * height)
  for (let y = 0; y < height; y++) {
    const start = rowStart(field, y)
    const to = (height - 1 - y) * width
    for (let x = 0; x < width; x++) pixels[to + x] = toHalf(field.planes[0]![start + x]!)
  }
  return { width, height, pixels }
}
