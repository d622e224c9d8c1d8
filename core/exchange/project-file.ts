import { z } from 'zod'
import { GristError } from '../errors'
import { explainIssue } from '../document/document'
import { LIMITS } from '../limits'
import { bakeSettings } from '../mesh/bake-settings'

/** What a project is called in a file of it. */
export const PROJECT_NAME = 'project.json'

/** A path of a file beside the project's: no way out of its folder. */
const path = z
  .string()
  .min(1)
  .max(400)
  .refine((text) => !/^[/\\]|^[a-z]:/i.test(text) && !text.split(/[/\\]/).includes('..'), 'a path inside of its folder')

const model = z.strictObject({
  name: z.string().min(1).max(LIMITS.name),
  mesh: path,
  high: path.optional(),
  cage: path.optional(),
  /** Metres a unit of files that tell none. */
  unit: z.number().min(1e-6).max(1e6).default(1),
  /** How its mesh data are baked, where it is not as usual. */
  settings: bakeSettings.partial().default({}),
  /** Which material lies on which part: by the part's name, with its number, from 0, where several are called so. */
  parts: z
    .array(z.strictObject({ part: z.string().max(200), number: z.int().min(0).optional(), material: path }))
    .max(LIMITS.model.parts),
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

/** The number of a part that a project names. Throws file-invalid where there is none, or several. */
export function partNumber(
  { part, number }: Pick<ProjectModel['parts'][number], 'part' | 'number'>,
  names: readonly string[],
): number {
  const found = [...names.keys()].filter((i) => names[i] === part && (number === undefined || number === i))
  if (found.length === 1) return found[0]!
  const problem = found.length === 0 ? 'There is no part' : `There are ${found.length} parts`
  throw new GristError(
    'file-invalid',
    `${problem} "${part}"${found.length > 1 ? '; add their "number"' : ''}. There are: ${names.join(', ')}.`,
  )
}
