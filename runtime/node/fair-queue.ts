/** Does at most `slots` pieces of work at a time; who waits with the fewest pieces done of late goes first, turn by turn. */
export function openFairQueue(slots: number) {
  const waiting = new Map<string, (() => void)[]>()
  let free = slots

  function next(): void {
    if (free === 0) return
    // A map keeps its order: the first who waits is served, and goes to the end of the line with the rest of theirs.
    const [turn] = waiting
    if (!turn) return
    const [who, queue] = turn
    const start = queue.shift()!
    waiting.delete(who)
    if (queue.length > 0) waiting.set(who, queue)
    free--
    start()
  }

  return {
    /** Runs `work` when it is `who`'s turn. */
    async run<T>(who: string, work: () => Promise<T>): Promise<T> {
      await new Promise<void>((start) => {
        waiting.set(who, [...(waiting.get(who) ?? []), start])
        next()
      })
      try {
        return await work()
      } finally {
        free++
        next()
      }
    },
  }
}
