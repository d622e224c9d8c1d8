import { documentAt } from '../server/documents/revisions.server'
import { answeringJson, checked, idFrom, wholeNumber } from '../server/http/problem.server'
import type { Route } from './+types/document-revision'

/** The document as it was at a revision. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () =>
    Response.json(await documentAt(idFrom(params.documentId), checked(wholeNumber, params.revision))),
  )
