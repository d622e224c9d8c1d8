import type { ChildProcess } from 'node:child_process'
import { spawn } from 'node:child_process'

/** A process that is kept alive. */
export interface Service {
  readonly name: string
  readonly command: readonly [string, ...string[]]
  readonly env?: NodeJS.ProcessEnv
  /** What asks it to end in order. */
  readonly stop: NodeJS.Signals
  /** Least and greatest pause before it is started again, in milliseconds. */
  readonly pauses?: readonly [number, number]
}

/** One that ran so long begins with the least pause again. */
const STEADY = 10_000

export interface Supervised {
  /** Milliseconds it waits before its next start; 0 while it runs. */
  readonly pause: number
  readonly pid: number | null
  /** Asks it to end, and ends it after `grace` milliseconds. Resolves when it is gone; it is not started again. */
  end(grace: number): Promise<void>
}

/**
 * Starts a process and starts it again whenever it ends, after a pause that doubles while it keeps ending. Only this very
 * child is ever signalled. `report` hears of starts and ends in words.
 */
export function supervise(service: Service, report: (text: string) => void): Supervised {
  const [minPause, maxPause] = service.pauses ?? [250, 30_000]
  const [program, ...args] = service.command
  let child: ChildProcess | null = null
  let timer: NodeJS.Timeout | undefined
  let waiting = 0
  let next = minPause
  let ending = false
  let gone: (() => void) | null = null

  function start(): void {
    waiting = 0
    const started = performance.now()
    // Of its own group, so that Ctrl-C in a terminal reaches only this process, and things end in order.
    const process = spawn(program, args, { stdio: ['ignore', 'inherit', 'inherit'], env: service.env, detached: true })
    child = process
    const ended = (how: string): void => {
      if (child !== process) return
      child = null
      if (ending) return gone?.()
      if (performance.now() - started > STEADY) next = minPause
      waiting = next
      next = Math.min(maxPause, next * 2)
      report(`The ${service.name} ended (${how}); it is started again in ${waiting / 1000} s.`)
      timer = setTimeout(start, waiting)
    }
    process.once('error', (error) => ended(error.message))
    process.once('exit', (code, signal) => ended(signal ?? `exit code ${code}`))
  }

  start()
  return {
    get pause() {
      return waiting
    },
    get pid() {
      return child?.pid ?? null
    },
    end: async (grace) => {
      ending = true
      clearTimeout(timer)
      if (!child) return
      const over = new Promise<void>((resolve) => (gone = resolve))
      const process = child
      process.kill(service.stop)
      const late = setTimeout(() => process.kill('SIGKILL'), grace)
      await over
      clearTimeout(late)
    },
  }
}
