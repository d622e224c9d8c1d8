import type { z } from 'zod'

/** What this browser remembers under a name; null where it is not ours, or where storage is closed. */
export function recall<T>(key: string, schema: z.ZodType<T>): T | null {
  try {
    const found = schema.safeParse(JSON.parse(localStorage.getItem(key) ?? 'null'))
    return found.success ? found.data : null
  } catch {
    return null
  }
}

/** Remembers a value under a name; where storage is closed or full, it lasts until the page is left. */
export function remember(key: string, value: unknown): void {
  try {
    localStorage.setItem(key, JSON.stringify(value))
  } catch {
    // See above.
  }
}
