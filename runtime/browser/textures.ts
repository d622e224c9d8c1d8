import type { BytePlane } from '#core/preview/display'
import { displayBytes, halfFloats, kindOf, rgbaBytes } from '#core/preview/display'
import type { Field } from '#core/field/field'
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
  const plane = (output: string, p: number): BytePlane => {
    const field = of(output)
    return { field, plane: field.planes[p]!, kind: kindOf(field) }
  }
  const makers: TextureMaker[] = []
  if (shown) makers.push(bytes('shown', shown))
  if (lit)
    makers.push(
      {
        slot: 'colour',
        outputs: ['colour', 'opacity'],
        make: () => rgbaBytes([plane('colour', 0), plane('colour', 1), plane('colour', 2), plane('opacity', 0)], true),
      },
      bytes('normal', 'normal'),
      {
        slot: 'surface',
        outputs: ['roughness', 'metallic'],
        make: () => rgbaBytes([255, plane('roughness', 0), plane('metallic', 0), 255], true),
      },
      bytes('occlusion', 'occlusion'),
      { slot: 'height', outputs: ['height'], make: () => halfFloats(of('height'), true) },
      bytes('emission', 'emission'),
    )
  return makers.filter(({ outputs }) => outputs.every((output) => fields.has(output)))
}
