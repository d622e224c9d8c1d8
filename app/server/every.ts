/** Does `work` again and again, never twice at once; a database that is away for a while ends nothing. */
export function every(milliseconds: number, what: string, work: () => Promise<unknown>): NodeJS.Timeout {
  let busy = false
  return setInterval(() => {
    if (busy) return
    busy = true
    void work()
      .catch((error: unknown) => console.error(`${what}:`, (error as Error).message))
      .finally(() => (busy = false))
  }, milliseconds)
}
