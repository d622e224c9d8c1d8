import { redirect } from 'react-router'
import { z } from 'zod'
import { GristError } from '#core/errors'
import { inForm } from '#core/texture/edit-packing'
import { LIMITS } from '#core/limits'
import { fileRole, newMapSet, said } from '../contracts/map-set'
import { ConvertView } from '../features/convert/convert-view'
import { latestDeliveries } from '../server/deliveries/deliveries.server'
import { readForm } from '../server/http/body.server'
import { Problem, answering, checked, idFrom, wholeNumber } from '../server/http/problem.server'
import {
  addMapSet,
  changeMapSet,
  convertMapSets,
  listMapSets,
  openAsMaterial,
  replaceFiles,
  setFileRole,
} from '../server/map-sets/map-sets.server'
import { packingsOf } from '../server/packings/packings.server'
import { openProject } from '../server/projects/projects.server'
import { listRuns } from '../server/runs/runs.server'
import { TopBar } from '../ui/top-bar'
import type { Route } from './+types/convert'

export const meta: Route.MetaFunction = ({ data }) => [
  { title: `Convert · ${data?.project.name ?? 'Project'} · Amber Grist` },
]

export const loader = ({ params }: Route.LoaderArgs) =>
  answering(async () => {
    const id = idFrom(params.projectId)
    const [{ name }, sets, packings, runs] = await Promise.all([
      openProject(id),
      listMapSets(id),
      packingsOf(id),
      listRuns({ projectId: id, limit: 200 }),
    ])
    const documents = sets.flatMap(({ documentId }) => documentId ?? [])
    const own = new Set(documents)
    return {
      project: { id, name },
      sets,
      deliveries: await latestDeliveries(documents),
      runs: runs.filter((run) => run.kind !== 'mesh' && own.has(run.documentId)),
      packings: packings.map(({ packing }) => packing).filter(({ frames }) => !frames),
      now: Date.now(),
    }
  })

const json = <T extends z.ZodType>(schema: T) =>
  z
    .string()
    .max(100_000)
    .transform((text, context): unknown => {
      try {
        return JSON.parse(text)
      } catch {
        context.addIssue({ code: 'custom', message: 'Expected JSON' })
        return z.NEVER
      }
    })
    .pipe(schema)

const request = z.discriminatedUnion('intent', [
  z.object({ intent: z.literal('add'), set: json(newMapSet) }),
  z.object({ intent: z.literal('role'), set: z.string(), file: wholeNumber, role: json(fileRole), said: json(said) }),
  z.object({
    intent: z.literal('change'),
    set: z.string(),
    name: z.string().trim().min(1, 'a name').max(LIMITS.name).optional(),
    widthMetres: z.coerce.number().min(0.001).max(1000).optional(),
    heightMetres: z.coerce.number().min(0).max(1000).optional(),
  }),
  z.object({ intent: z.literal('delete'), set: z.string() }),
  z.object({ intent: z.literal('undelete'), set: z.string() }),
  z.object({ intent: z.literal('open'), set: z.string() }),
  z.object({ intent: z.literal('replace'), set: z.string(), target: z.string() }),
  z.object({
    intent: z.literal('convert'),
    sets: z.string().min(1, 'a set').max(40_000),
    packing: z.string().max(LIMITS.name),
    /** None: as large as the largest file of each set. */
    width: z.coerce.number().int().min(1).max(16384).optional(),
    dither: z.enum(['yes', 'no']),
    /** Format and bits of all files; none: as the packing says. */
    form: z
      .string()
      .regex(/^[a-z0-9]{1,8} (8|16|32)$/)
      .optional(),
  }),
])

/** "png 16" as packings have it; what there is none of they refuse. */
function formOf(text: string): Parameters<typeof inForm>[1] {
  const [format = '', bits] = text.split(' ')
  return { format, bits: Number(bits) as 8 | 16 | 32 }
}

export const action = ({ request: http, params }: Route.ActionArgs) =>
  answering(async () => {
    const project = idFrom(params.projectId)
    const asked = checked(request, await readForm(http))
    try {
      switch (asked.intent) {
        case 'add':
          await addMapSet(project, asked.set)
          return {}
        case 'role':
          await setFileRole(project, idFrom(asked.set), asked.file, asked.role, asked.said)
          return {}
        case 'change':
          await changeMapSet(project, idFrom(asked.set), asked)
          return {}
        case 'delete':
        case 'undelete':
          await changeMapSet(project, idFrom(asked.set), { isDeleted: asked.intent === 'delete' })
          return {}
        case 'open':
          return redirect(`/documents/${await openAsMaterial(project, idFrom(asked.set))}`)
        case 'replace': {
          const left = await replaceFiles(project, idFrom(asked.set), idFrom(asked.target))
          return left.length > 0 ? { told: `Left as they are: ${left.join('; ')}.` } : {}
        }
        case 'convert': {
          const found = (await packingsOf(project)).find(({ packing }) => packing.name === asked.packing)
          if (!found) throw new Problem(404, 'There is no such packing. It may have been deleted.')
          await convertMapSets(project, asked.sets.split(',').map(idFrom), {
            ...{
              packing: asked.form ? inForm(found.packing, formOf(asked.form)) : found.packing,
              width: asked.width ?? null,
              sharpen: 0,
            },
            dither: asked.dither === 'yes',
          })
          return {}
        }
      }
    } catch (error) {
      // What a set cannot be is no reason to leave the page.
      if (error instanceof GristError || (error instanceof Problem && error.status === 409))
        return { problem: error.message }
      throw error
    }
  })

export default function Convert({ loaderData }: Route.ComponentProps) {
  const { project } = loaderData
  return (
    <div className="flex h-screen flex-col">
      <TopBar
        place={[
          { name: 'Projects', to: '/' },
          { name: project.name, to: `/projects/${project.id}` },
          { name: 'Convert' },
        ]}
      />
      <main className="min-h-0 flex-1">
        <ConvertView {...loaderData} />
      </main>
    </div>
  )
}
