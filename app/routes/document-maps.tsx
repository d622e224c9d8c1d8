import { ownSettings } from '#core/document/own-settings'
import { sharpening } from '#core/document/sharpening'
import { useOutletContext } from 'react-router'
import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { parsePacking } from '#core/texture/packing'
import { useSends } from '../session/use-sends'
import { partPlace } from '../contracts/parts'
import { MapsScreen } from '../screens/maps-screen'
import { useNow, useRuns } from '../session/runs/use-runs'
import { readJson } from '../server/http/body.server'
import { listDeliveries, repeatDelivery } from '../server/deliveries/deliveries.server'
import { openDocument } from '../server/documents/documents.server'
import { packingsOf } from '../server/packings/packings.server'
import { answering, checked, idFrom } from '../server/http/problem.server'
import { enqueueBake, listBakes } from '../server/runs/runs.server'
import type { DocumentOutlet } from './document'
import type { Route } from './+types/document-maps'

export const meta: Route.MetaFunction = ({ data }) => [{ title: `Maps of ${data?.name ?? 'a material'} · Amber Grist` }]

export const loader = ({ params }: Route.LoaderArgs) =>
  answering(async () => {
    const documentId = idFrom(params.documentId)
    const { projectId, document } = await openDocument(documentId)
    const [deliveries, runs, packings] = await Promise.all([
      listDeliveries({ documentId }),
      listBakes(documentId, 30),
      packingsOf(projectId),
    ])
    return { name: document.name, deliveries, runs, packings, now: Date.now() }
  })

const asked = z.discriminatedUnion('intent', [
  z.strictObject({
    intent: z.literal('make'),
    packing: z.unknown(),
    width: z.int().min(1).max(LIMITS.side),
    dither: z.boolean(),
    sharpen: sharpening,
    own: ownSettings.default({ layers: {} }),
    /** Presets of which each gets a delivery of its own, instead of that of `own`. */
    variations: z.array(z.string().max(64)).max(64).default([]),
    /** The part that it is shown on. */
    on: partPlace.optional(),
    /** The one that the page shows. */
    revision: z.int().min(0).max(2147483647),
  }),
  z.strictObject({ intent: z.literal('make-again'), delivery: z.string() }),
])

export const action = ({ request, params }: Route.ActionArgs) =>
  answering(async () => {
    const documentId = idFrom(params.documentId)
    const wanted = checked(asked, await readJson(request))
    if (wanted.intent === 'make-again') await repeatDelivery(idFrom(wanted.delivery))
    else {
      const { packing: json, width, dither, sharpen, own, variations, revision, on } = wanted
      const request = { packing: parsePacking(json), width, dither, sharpen, on }
      const each = variations.length > 0 ? variations.map((preset) => ({ ...own, preset })) : [own]
      for (const one of each) await enqueueBake(documentId, { ...request, own: one }, { revision })
    }
    return {}
  })

export default function DocumentMaps({ loaderData, params }: Route.ComponentProps) {
  const { project } = useOutletContext<DocumentOutlet>()
  const { deliveries, packings, now: loadedAt } = loaderData
  const { send } = useSends<object>('json')
  const runs = useRuns(loaderData.runs, `document:${params.documentId}`)
  const busy = runs.some(({ state }) => state === 'running' || state === 'queued')
  const now = useNow(loadedAt, busy)
  const next =
    1 +
    Math.max(
      0,
      ...runs.map(({ request }) => request.names.delivery ?? 0),
      ...deliveries.map(({ number }) => number ?? 0),
    )
  return <MapsScreen delivering={{ project, deliveries, runs, now, next, send }} packings={packings} />
}
