/** Lets messages that have come in meanwhile have their turn, at once: timers wait some milliseconds when they follow each other. */
export function openPauses(): () => Promise<void> {
  const { port1, port2 } = new MessageChannel()
  // Several may wait at a time; each has its own message.
  const waiting: (() => void)[] = []
  port1.onmessage = () => waiting.shift()!()
  return () =>
    new Promise((resolve) => {
      waiting.push(resolve)
      port2.postMessage(null)
    })
}
