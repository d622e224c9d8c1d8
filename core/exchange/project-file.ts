import { z } from 'zod'
import { pickedIds } from '../picked-ids'
import { GristError } from '../errors'
import { explainIssue } from '../document/document'
import { LIMITS } from '../limits'
import { bakeSettings } from '../mesh/bake-settings'
import { sharing } from '../mesh/file-sets'

/** What a project is called in a file of it. */
export const PROJECT_NAME = 'project.json'

/** A path of a file beside the project's: no way out of its folder. */
const path = z
  .string()
  .min(1)
  .max(400)
  .refine((text) => !/^[/\\]|^[a-z]:/i.test(text) && !text.split(/[/\\]/).includes('..'), 'a path inside of its folder')

/** A part by its name, with its number, from 0, where several are called so. */
const partName = z.strictObject({ part: z.string().max(200), number: z.int().min(0).optional() })
type PartName = z.output<typeof partName>

const model = z.strictObject({
  name: z.string().min(1).max(LIMITS.name),
  mesh: path,
  high: path.optional(),
  cage: path.optional(),
  /** Metres a unit of files that tell none. */
  unit: z.number().min(1e-6).max(1e6).default(1),
  /** How its mesh data are baked, where it is not as usual. */
  settings: bakeSettings.partial().default({}),
  /** Which material lies on which part, or on some IDs of it. Later ones lie over earlier ones. */
  parts: z.array(partName.extend({ ids: pickedIds.optional(), material: path })).max(2 * LIMITS.model.parts),
  /** Which parts have their maps in the files of another part. */
  joins: z
    .array(partName.extend({ with: partName }))
    .max(LIMITS.model.parts)
    .default([]),
})

const project = z.strictObject({
  format: z.literal('amber-grist/project'),
  version: z.literal(1),
  name: z.string().min(1).max(LIMITS.name),
  models: z.array(model).max(1000),
})

/** A project as a file: its models, and which material lies on which of their parts. */
export type ProjectFile = z.output<typeof project>
export type ProjectModel = ProjectFile['models'][number]

export const isProjectFile = (json: unknown): boolean =>
  typeof json === 'object' && json !== null && (json as { format?: unknown }).format === 'amber-grist/project'

/** Reads a project. Throws file-invalid, naming the member. */
export function parseProjectFile(json: unknown): ProjectFile {
  const result = project.safeParse(json)
  if (!result.success) throw new GristError('file-invalid', explainIssue(result.error.issues[0]!, json))
  return result.data
}

/** Which part shares the files of which, by their numbers, as a model of a project tells. Throws file-invalid. */
export const joinsOf = ({ joins }: Pick<ProjectModel, 'joins'>, names: readonly string[]): Record<number, number> =>
  joins.reduce(
    (known, one) => sharing(known, partNumber(one, names), partNumber(one.with, names)),
    {} as Record<number, number>,
  )

/** The number of a part that a project names. Throws file-invalid where there is none, or several. */
export function partNumber({ part, number }: PartName, names: readonly string[]): number {
  const found = [...names.keys()].filter((i) => names[i] === part && (number === undefined || number === i))
  if (found.length === 1) return found[0]!
  const problem = found.length === 0 ? 'There is no part' : `There are ${found.length} parts`
  throw new GristError(
    'file-invalid',
    `${problem} "${part}"${found.length > 1 ? '; add their "number"' : ''}. There are: ${names.join(', ')}.`,
  )
}
