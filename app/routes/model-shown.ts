import { answeringJson, idFrom } from '../server/http/problem.server'
import { openModel } from '../server/models/models.server'
import type { Route } from './+types/model-shown'

/** What the stage of another screen needs to show a model. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => Response.json(await openModel(idFrom(params.modelId))))
