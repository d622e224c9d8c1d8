/** The same trouble is told once in so many milliseconds. */
const TELL = 10_000

/** Tells the log of trouble that comes again and again, such as a database that is away, without filling it. */
export function errorLog(what: string): (error: unknown) => void {
  let last = { message: '', at: -Infinity }
  return (error) => {
    const message =
      typeof error === 'string'
        ? error.split('\n')[0]!
        : (error as Error).message || String((error as { code?: string }).code)
    if (message === last.message && performance.now() - last.at < TELL) return
    last = { message, at: performance.now() }
    console.error(`${what}: ${message}`)
  }
}
