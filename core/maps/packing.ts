import { z } from 'zod'
import { GristError } from '../errors'
import type { Channel } from '../graph/channels'
import { explainIssue } from '../graph/document'

/** One colour channel of a file: a plane of a material's channel, inverted or not, or a constant. */
const slot = z.union([
  z.strictObject({
    channel: z.string().max(64),
    component: z.int().min(0).max(2).default(0),
    invert: z.boolean().default(false),
  }),
  z.strictObject({ constant: z.number().min(0).max(1) }),
])

const file = z.strictObject({
  /** What the file is called in patterns: {map}. */
  map: z.string().regex(/^[A-Za-z0-9_-]{1,64}$/, 'letters, digits, - and _'),
  /** One slot for a grey file, three or four for a colour file. */
  slots: z.union([z.tuple([slot]), z.tuple([slot, slot, slot]), z.tuple([slot, slot, slot, slot])]),
  /** srgb: the first three slots are encoded; the fourth never is. */
  transfer: z.enum(['srgb', 'raw']),
  format: z.enum(['png', 'tga', 'exr']),
  bits: z.union([z.literal(8), z.literal(16), z.literal(32)]),
})

const packing = z.strictObject({
  format: z.literal('amber-grist/packing'),
  version: z.literal(1),
  name: z.string().regex(/^[a-z0-9-]{1,64}$/, 'small letters, digits and -'),
  title: z.string().max(100),
  summary: z.string().max(400),
  /** Fields: {material} {map} {size}. */
  pattern: z.string().min(1).max(200).default('{material}_{map}'),
  files: z.array(file).max(64),
  /** Adds a file of its own for every channel of the material, in this form. */
  everyChannel: file.pick({ format: true, bits: true }).optional(),
})

export type Packing = z.output<typeof packing>
export type PackedFile = z.output<typeof file>
export type Slot = z.output<typeof slot>

/** Reads a packing. Throws packing-invalid, naming the member. */
export function parsePacking(json: unknown): Packing {
  const result = packing.safeParse(json)
  if (!result.success) throw new GristError('packing-invalid', explainIssue(result.error.issues[0]!, json))
  for (const one of result.data.files) checkFile(one)
  return result.data
}

function checkFile({ map, format, bits, slots }: PackedFile): void {
  const fits = format === 'png' ? bits < 32 : format === 'tga' ? bits === 8 : bits > 8
  if (!fits) throw new GristError('packing-invalid', `${map}: ${format} has no ${bits}-bit form.`)
  if (format === 'tga' && slots.length === 1)
    throw new GristError('packing-invalid', `${map}: a tga takes three or four slots.`)
}

/** A packing as written in code, with the fixed members filled in and checked. */
export const definePacking = (data: Omit<z.input<typeof packing>, 'format' | 'version'>): Packing =>
  parsePacking({ format: 'amber-grist/packing', version: 1, ...data })

/** The files of a packing for a material with these channels. Throws packing-invalid on an unknown channel. */
export function filesOf(
  { files, everyChannel }: Pick<Packing, 'files' | 'everyChannel'>,
  channels: readonly Channel[],
): PackedFile[] {
  const own = everyChannel
    ? channels.map((channel): PackedFile => {
        const planes = channel.type === 'grey' ? [0] : [0, 1, 2]
        const slots = planes.map((component) => ({ channel: channel.id, component, invert: false }))
        return { ...everyChannel, map: channel.id, transfer: channel.transfer, slots: slots as PackedFile['slots'] }
      })
    : []
  const all = [...files, ...own]
  for (const { map, slots } of all)
    for (const one of slots)
      if ('channel' in one && !channels.some(({ id }) => id === one.channel))
        throw new GristError('packing-invalid', `${map}: there is no channel "${one.channel}" in this material.`)
  return all
}

/**
 * File names by the pattern. Unsafe characters become "-".
 * Throws packing-invalid where two files would share a name (letter case aside) or a field is unknown.
 */
export function fileNames(
  pattern: string,
  files: readonly PackedFile[],
  fields: { material: string; size: number },
): string[] {
  const seen = new Set<string>()
  return files.map(({ map, format }) => {
    const values: Record<string, string> = { material: fields.material, size: String(fields.size), map }
    const stem = pattern.replace(/\{([^}]*)\}/g, (_, field: string) => {
      if (values[field] === undefined)
        throw new GristError(
          'packing-invalid',
          `The name pattern has an unknown field {${field}}. There are {material} {map} {size}.`,
        )
      return values[field]
    })
    const safe = stem.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+|[.-]+$/g, '') || 'map'
    const name = `${safe}.${format}`
    if (seen.has(name.toLowerCase()))
      throw new GristError('packing-invalid', `Two files would be called "${name}". Put {map} into the name pattern.`)
    seen.add(name.toLowerCase())
    return name
  })
}
