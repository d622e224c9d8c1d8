import { database } from '../server/database/database.server'
import { answeringJson } from '../server/http/problem.server'

/** Whether pages can be made: 204, or 503 while the database is away. For pages that wait, and for whoever watches a server. */
export const loader = () =>
  answeringJson(async () => {
    await database().raw('select 1')
    return new Response(null, { status: 204 })
  })
