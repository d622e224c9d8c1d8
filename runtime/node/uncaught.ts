/** Logs an error that nothing caught and ends the process, whose state is unknown then; who keeps it alive starts it anew. */
export function endOnUncaught(what: string): void {
  const end = (error: unknown): void => {
    console.error(`${what}: an error that nothing caught; it ends and is started anew.`, error)
    process.exit(1)
  }
  process.on('uncaughtException', end)
  process.on('unhandledRejection', end)
}
