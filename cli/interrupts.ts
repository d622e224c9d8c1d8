let interrupted = false
/** Ends the work in order when the user interrupts it: half-written files go away. A second time ends at once. */
export function watchInterrupts(): void {
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      if (interrupted) process.exit(130)
      interrupted = true
    })
}
export const isInterrupted = (): boolean => interrupted
