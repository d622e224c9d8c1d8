import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { editsSince, saveEdits, saveSchema } from '../server/documents.server'
import { Problem, answeringJson, checked, idFrom } from '../server/problem.server'
import { enqueuePicture } from '../server/pictures.server'
import type { Route } from './+types/document-edits'

/** Edits after a revision. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const since = checked(z.coerce.number().int().min(0), new URL(request.url).searchParams.get('since'))
    return Response.json(await editsSince(idFrom(params.documentId), since))
  })

/** Appends edits; 409 where the document has moved on. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const id = idFrom(params.documentId)
    if (Number(request.headers.get('Content-Length') ?? 0) > 2 * LIMITS.document.bytes)
      throw new Problem(413, 'This save is too large.')
    const json: unknown = await request.json().catch(() => {
      throw new Problem(400, 'Expected JSON.')
    })
    const saved = await saveEdits(id, checked(saveSchema, json))
    await enqueuePicture(id, saved.head)
    return Response.json(saved)
  })
