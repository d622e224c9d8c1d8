import { z } from 'zod'

/** The UDIM number of the UV tile 0–1. */
export const FIRST_TILE = 1001

const metre = z.number().min(0.001).max(10000)
const corner = z.tuple([z.number(), z.number(), z.number()])
const box = z.strictObject({ min: corner, max: corner })

/**
 * What is known of the part that a material lies on: facts of its mesh, not of the material. They are put in before a material is
 * evaluated (onPart) and are not kept with it.
 */
const partFacts = z.strictObject({
  name: z.string().max(200),
  /** Hash of the mesh that it belongs to, its number there, and the UV set that it is laid out in; both from 0. */
  mesh: z.string().max(100),
  part: z.int().min(0).max(1e6),
  uvSet: z.int().min(0).max(7),
  /** The UDIM number of the tile that is evaluated, of a part that has others too; absent where it has one, which is 0–1. */
  udim: z.int().min(1001).max(9999).optional(),
  /** Metres that one unit of UV spans, on the average of the part: the root of its area over its area in UV. */
  metres: z.number().positive(),
  /** The boxes around the part and around all of its model, in metres. */
  box,
  modelBox: box,
  /** Baked mesh data as images, by kind. */
  data: z.record(z.string().max(64), z.string().max(200)),
  /**
   * How those were baked, by kind: settings and options by name, lengths in metres. Told in records, so that they can be made again; absent
   * of what was brought in as an image, and in records of before.
   */
  baked: z
    .record(z.string().max(64), z.record(z.string().max(64), z.union([z.number(), z.string().max(64), z.null()])))
    .optional(),
  /** Share of its tile's texels at which rays met no high mesh, where its normals were baked of one. */
  missed: z.number().min(0).max(1).optional(),
})

/** What a material is spread over: a tile that repeats, or the UV layout of a part. */
export const domain = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('tile'), metres: z.tuple([metre, metre]) }),
  z.strictObject({ kind: z.literal('part'), on: partFacts.optional() }),
])

export type DocumentDomain = z.output<typeof domain>
export type PartFacts = z.output<typeof partFacts>

/** Metres that the raster of a material spans, across and down; 1 × 1 for a part as long as it lies on none. */
export function metresOf({ domain: given }: { readonly domain: DocumentDomain }): readonly [number, number] {
  if (given.kind === 'tile') return given.metres
  const metres = given.on?.metres ?? 1
  return [metres, metres]
}

/** What a material lies on; null for a tile, and for a part as long as there is none. */
export const partOf = ({ domain: given }: { readonly domain: DocumentDomain }): PartFacts | null =>
  given.kind === 'part' ? (given.on ?? null) : null

/** A material for parts, on a part; a material for a tile as it is. */
export const onPart = <T extends { domain: DocumentDomain }>(document: T, facts: PartFacts | null): T =>
  document.domain.kind === 'tile'
    ? document
    : { ...document, domain: facts === null ? { kind: 'part' } : { kind: 'part', on: facts } }
