import { errorLog } from './error-log'

/** Does `work` again and again, never twice at once; a database that is away for a while ends nothing. */
export function repeatEvery(milliseconds: number, what: string, work: () => Promise<unknown>): NodeJS.Timeout {
  const report = errorLog(what)
  let busy = false
  return setInterval(() => {
    if (busy) return
    busy = true
    void work()
      .catch(report)
      .finally(() => (busy = false))
  }, milliseconds)
}
