import { roleOfName } from './roles'

const told = (name: string): string | null => {
  const role = roleOfName(name)
  return (
    role &&
    `${role.transfer} ${role.slots.map((one) => `${one.inverted ? '1-' : ''}${one.channel}${one.component}`).join(' ')}`
  )
}

// Common practice: how map sets are named.
test.each([
  ['Wall_BaseColor.png', 'srgb colour0 colour1 colour2'],
  ['wall-albedo.tga', 'srgb colour0 colour1 colour2'],
  ['Normal_metal_wall_nrm.png', 'raw normal0 normal1 normal2'],
  ['Quay-setts_colour.png', 'srgb colour0 colour1 colour2'],
  ['Quay-setts_occlusion-rough-metal.png', 'raw occlusion0 roughness0 metallic0'],
  ['wall_ORM.png', 'raw occlusion0 roughness0 metallic0'],
  ['wallAmbientOcclusion.png', 'raw occlusion0'],
  ['wall_gloss.png', 'raw 1-roughness0'],
  ['wall_height_16.exr', 'raw height0'],
  ['holiday.png', null],
])('%s holds %s', (name, expected) => expect(told(name)).toBe(expected))
