import type { Page } from '@playwright/test'

/** A task of the main thread over 50 ms, in milliseconds: all of it, and what of it went into calls of WebGL. */
export interface LongTask {
  readonly duration: number
  readonly gl: number
}

/** Notes long tasks of every document that the page opens from now on. */
export async function watchLongTasks(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const tasks: LongTask[] = []
    const calls: { from: number; to: number }[] = []
    Object.assign(window, { longTasks: tasks })
    const prototype = WebGL2RenderingContext.prototype as unknown as Record<string, unknown>
    for (const name of Object.getOwnPropertyNames(prototype)) {
      const { value } = Object.getOwnPropertyDescriptor(prototype, name)! as { value: unknown }
      if (typeof value !== 'function' || name === 'constructor') continue
      prototype[name] = function (this: unknown, ...given: unknown[]): unknown {
        const from = performance.now()
        const result: unknown = (value as (...all: unknown[]) => unknown).apply(this, given)
        const to = performance.now()
        if (to > from) calls.push({ from, to })
        return result
      }
    }
    new PerformanceObserver((list) => {
      for (const { startTime, duration } of list.getEntries()) {
        const within = calls.filter(({ from, to }) => from >= startTime && to <= startTime + duration)
        tasks.push({ duration, gl: within.reduce((sum, { from, to }) => sum + to - from, 0) })
      }
    }).observe({ type: 'longtask' })
  })
}

/** Those noted since the last call. */
export const takeLongTasks = (page: Page): Promise<LongTask[]> =>
  page.evaluate(() => (window as unknown as { longTasks: LongTask[] }).longTasks.splice(0))
