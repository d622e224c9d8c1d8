import { answeringJson, idFrom } from '../server/http/problem.server'
import { materialFile } from '../server/projects/material-file.server'
import type { Route } from './+types/document-file'

/** A material with its images, to take along. */
export const loader = ({ params }: Route.LoaderArgs) => answeringJson(() => materialFile(idFrom(params.documentId)))
