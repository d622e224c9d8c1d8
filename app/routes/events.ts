import { CLIENT_HEADER } from '../server/http/client'
import { answeringJson } from '../server/http/problem.server'
import { eventStream } from '../server/events/events.server'
import type { Route } from './+types/events'

/** Events about ?topic=…, which may be given several times. */
export const loader = ({ request }: Route.LoaderArgs) =>
  answeringJson(async () =>
    eventStream(request, request.headers.get(CLIENT_HEADER) ?? '', new URL(request.url).searchParams.getAll('topic')),
  )
