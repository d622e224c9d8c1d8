/**
 * Saves one at a time: `step` sends what there is and says whether to go on; more may come while it waits for its answer.
 * Where it rejects, the server is away: `away` is told, and all is tried again `later`.
 */
export function saveLoop({
  step,
  away,
  later,
}: {
  step(): Promise<boolean>
  away(): void
  later(work: () => void): void
}) {
  let running = false
  async function run(): Promise<void> {
    if (running) return
    running = true
    try {
      while (await step());
    } catch {
      away()
      later(() => void run())
    } finally {
      running = false
    }
  }
  return {
    /** Saves what there is; where a save is under way, that one goes on to it. */
    run: (): void => void run(),
    /** Does other work while nothing is being saved, and saves then. False, and not done, where a save is under way. */
    between(work: () => Promise<unknown>): boolean {
      if (running) return false
      running = true
      void work().finally(() => {
        running = false
        void run()
      })
      return true
    },
  }
}
