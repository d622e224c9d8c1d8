import type { Run } from './run'

/** What the event stream carries. */
export type Notice =
  | { type: 'run'; run: Run }
  | { type: 'document'; id: string; head: number }
  /** Words for people where bakes do not go on, or null. */
  | { type: 'health'; trouble: string | null }
