import { eventStream } from '../server/watch.server'
import { answeringJson, idFrom } from '../server/problem.server'
import type { Route } from './+types/events'

export const loader = ({ request }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const document = new URL(request.url).searchParams.get('document')
    return eventStream(request, document === null ? null : idFrom(document))
  })
