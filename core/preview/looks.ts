/**
 * How a surface is lit: by base colour, roughness and metallic (glTF 2.0); by diffuse and specular colours and gloss
 * (KHR_materials_pbrSpecularGlossiness); as older renderers light it (Lambert, with highlights after Blinn 1977); or as strands, whose tones
 * a renderer mixes by masks.
 */
export const LOOKS = ['metal-rough', 'specular-gloss', 'older', 'strands'] as const
export type Look = (typeof LOOKS)[number]

/** Channels that a look needs and that are made of others on their way out. */
export const LOOK_CHANNELS: Readonly<Record<Look, readonly string[]>> = {
  'metal-rough': [],
  'specular-gloss': ['diffuse', 'specular'],
  older: ['diffuse', 'specular-tint'],
  strands: [],
}

/** The look that files with these channels are for. */
export function lookFor(channels: Iterable<string>): Look {
  const held = new Set(channels)
  if (held.has('specular-tint')) return 'older'
  if (held.has('specular')) return 'specular-gloss'
  return ['root', 'tip', 'tone'].some((id) => held.has(id)) && !held.has('colour') ? 'strands' : 'metal-rough'
}
