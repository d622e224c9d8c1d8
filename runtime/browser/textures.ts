import type { BytePlane, DisplayBytes, HalfFloats, PictureRows } from '#core/preview/display'
import { fillDisplay, fillHalves, fillRgba, halvesPicture, kindOf, rgbaPicture } from '#core/preview/display'
import { optionalChannel } from '#core/document/channels'
import type { Field } from '#core/field/field'
import type { Look } from '#core/preview/looks'
import type { TexturePicture, TextureSlot } from './protocol'

type Fields = ReadonlyMap<string, Field>
type Picture = Omit<TexturePicture, 'key'>

/** A texture that is made of fields: which outputs it shows, and how. */
export interface TextureMaker {
  readonly slot: TextureSlot
  readonly outputs: readonly string[]
  /** Room for it, by the size of its fields. */
  begin(fields: Fields): Picture
  /** Fills rows that the fields hold. */
  fill(picture: Picture, fields: Fields, rows: PictureRows): void
}

/** The textures of a lit material, of one output (its text) seen unlit and of one laid over it, as far as there are such outputs. */
export function texturesOf(
  names: Iterable<string>,
  {
    lit,
    shown,
    overlay = null,
    look = 'metal-rough',
  }: { lit: boolean; shown: string | null; overlay?: string | null; look?: Look },
): TextureMaker[] {
  const known = new Set(names)
  const makers = [
    ...(shown ? [display('shown', shown)] : []),
    ...(overlay ? [display('overlay', overlay)] : []),
    ...(lit ? [...LIT, ...(known.has('normal') ? [] : [OBJECT_NORMAL]), ...lookMakers(look, known)] : []),
  ]
  return makers.filter(({ outputs }) => outputs.every((output) => known.has(output)))
}

/** The whole of a texture. */
export function makeTexture({ begin, fill }: TextureMaker, fields: Fields): Picture {
  const picture = begin(fields)
  fill(picture, fields, { from: 0, to: picture.height })
  return picture
}

/** A texture of RGBA bytes: planes of outputs, or the same byte everywhere. */
function bytes(
  slot: TextureSlot,
  outputs: readonly string[],
  channels: readonly (readonly [string, number] | number)[],
): TextureMaker {
  const of = (fields: Fields, at: number): BytePlane => {
    const source = channels[at]!
    if (typeof source === 'number') return source
    const field = fields.get(source[0])!
    return { field, plane: field.planes[source[1]]!, kind: kindOf(field) }
  }
  return {
    slot,
    outputs,
    begin: (fields) => rgbaPicture(outputs.map((output) => fields.get(output)!)),
    fill: (picture, fields, rows) =>
      fillRgba(picture as DisplayBytes, [of(fields, 0), of(fields, 1), of(fields, 2), of(fields, 3)], true, rows),
  }
}

const display = (slot: TextureSlot, output: string): TextureMaker => ({
  slot,
  outputs: [output],
  begin: (fields) => rgbaPicture([fields.get(output)!]),
  fill: (picture, fields, rows) => fillDisplay(picture as DisplayBytes, fields.get(output)!, true, rows),
})

const LIT: readonly TextureMaker[] = [
  bytes(
    'colour',
    ['colour', 'opacity'],
    [
      ['colour', 0],
      ['colour', 1],
      ['colour', 2],
      ['opacity', 0],
    ],
  ),
  display('normal', 'normal'),
  bytes('surface', ['roughness', 'metallic'], [255, ['roughness', 0], ['metallic', 0], 255]),
  display('occlusion', 'occlusion'),
  {
    slot: 'height',
    outputs: ['height'],
    begin: (fields) => halvesPicture(fields.get('height')!),
    fill: (picture, fields, rows) => fillHalves(picture as HalfFloats, fields.get('height')!, true, rows),
  },
  display('emission', 'emission'),
]

/** What stands for the normal in files that hold none but this. */
const OBJECT_NORMAL = display('objectNormal', 'object-normal')

const rgb = (channel: string): (readonly [string, number])[] => [0, 1, 2].map((plane) => [channel, plane] as const)

/** An optional channel, or the byte of what stands for it. */
const optional = (id: string, known: ReadonlySet<string>): readonly [string, number] | number =>
  known.has(id) ? [id, 0] : Math.round(optionalChannel(id)!.backdrop * 255)

const outputsIn = (channels: readonly (readonly [string, number] | number)[]): string[] => [
  ...new Set(channels.flatMap((one) => (typeof one === 'number' ? [] : [one[0]]))),
]

/** What a look takes besides the lit channels: alpha of its specular colour is the strength of highlights. */
function lookMakers(look: Look, known: ReadonlySet<string>): TextureMaker[] {
  const of = (slot: TextureSlot, channels: readonly (readonly [string, number] | number)[]): TextureMaker[] =>
    // Of numbers alone no texture is made: there is none that tells its size.
    outputsIn(channels).length > 0 ? [bytes(slot, outputsIn(channels), channels)] : []
  switch (look) {
    case 'metal-rough':
      return []
    case 'specular-gloss':
      return [...of('diffuse', [...rgb('diffuse'), 255]), ...of('specular', [...rgb('specular'), 255])]
    case 'older':
      return [
        ...of('diffuse', [...rgb(known.has('diffuse') ? 'diffuse' : 'diffuse-highlights'), 255]),
        ...of('specular', [...rgb('specular-tint'), optional('strength', known)]),
      ]
    case 'strands':
      return of(
        'strands',
        ['root', 'tip', 'tone', 'strand-direction'].map((id) => optional(id, known)),
      )
  }
}
