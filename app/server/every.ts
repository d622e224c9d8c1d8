/** The same trouble is told once in so many milliseconds. */
const TELL = 10_000

/** Does `work` again and again, never twice at once; a database that is away for a while ends nothing. */
export function every(milliseconds: number, what: string, work: () => Promise<unknown>): NodeJS.Timeout {
  let busy = false
  let told = { message: '', at: -Infinity }
  return setInterval(() => {
    if (busy) return
    busy = true
    void work()
      .catch((error: unknown) => {
        const message = (error as Error).message || String((error as { code?: string }).code)
        if (message === told.message && performance.now() - told.at < TELL) return
        told = { message, at: performance.now() }
        console.error(`${what}: ${message}`)
      })
      .finally(() => (busy = false))
  }, milliseconds)
}
