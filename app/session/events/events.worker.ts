import type { Listener, ToLine } from './line'
import { browserLineHost, openLine } from './line'

/** The shared worker that holds the browser's one stream of events; every tab is a port. */
const line = openLine(browserLineHost)

const scope = self as unknown as { onconnect: (event: MessageEvent) => void }
scope.onconnect = ({ ports: [port] }) => {
  const listener: Listener = { post: (message) => port!.postMessage(message) }
  port!.onmessage = ({ data }: MessageEvent<ToLine>) => {
    if ('wants' in data) line.listen(listener, data.wants)
    else if ('leaves' in data) line.leave(listener)
    // A tab holds its lock as long as it lives: whoever gets it knows that the tab has gone, also when it crashed.
    else void navigator.locks?.request(data.lock, () => line.leave(listener))
  }
}
