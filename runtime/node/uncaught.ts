/**
 * Logs an error that nothing caught and ends the process, whose state is unknown then; who keeps it alive starts it anew.
 * Rejections that are `passing`, such as those of a library whose database went away, are logged only.
 */
export function endOnUncaught(what: string, passing: (error: unknown) => boolean = () => false): void {
  const end = (error: unknown): void => {
    console.error(`${what}: an error that nothing caught; it ends and is started anew.`, error)
    process.exit(1)
  }
  process.on('uncaughtException', end)
  process.on('unhandledRejection', (error) => {
    if (passing(error)) console.error(`${what}: ${(error as Error).message}`)
    else end(error)
  })
}
