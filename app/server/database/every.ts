import { teller } from './tell'

/** Does `work` again and again, never twice at once; a database that is away for a while ends nothing. */
export function repeatEvery(milliseconds: number, what: string, work: () => Promise<unknown>): NodeJS.Timeout {
  const tell = teller(what)
  let busy = false
  return setInterval(() => {
    if (busy) return
    busy = true
    void work()
      .catch(tell)
      .finally(() => (busy = false))
  }, milliseconds)
}
