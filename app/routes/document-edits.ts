import { SAVE_BYTES, readJson } from '../server/http/body.server'
import { editsSince } from '../server/documents/documents.server'
import { saveEdits, saveSchema } from '../server/documents/saves.server'
import { answeringJson, checked, idFrom, wholeNumber } from '../server/http/problem.server'
import { pictureSoon } from '../server/documents/pictures.server'
import type { Route } from './+types/document-edits'

/** Edits after a revision. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const since = checked(wholeNumber, new URL(request.url).searchParams.get('since'))
    return Response.json(await editsSince(idFrom(params.documentId), since))
  })

/** Appends edits; 409 where the document has moved on. */
export const action = ({ request, params }: Route.ActionArgs) =>
  answeringJson(async () => {
    const id = idFrom(params.documentId)
    const saved = await saveEdits(id, checked(saveSchema, await readJson(request, SAVE_BYTES)))
    pictureSoon(id, saved.head)
    return Response.json(saved)
  })
