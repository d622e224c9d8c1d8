import { createContext, useContext } from 'react'
import type { Delivery } from '../../contracts/delivery'
import type { BakeRun } from '../../contracts/run'

/** What the server knows of a material's deliveries. */
export interface Delivering {
  readonly project: { readonly id: string; readonly name: string }
  readonly deliveries: readonly Delivery[]
  /** Bakes of this material, newest first. */
  readonly runs: readonly BakeRun[]
  readonly now: number
  /** The number that the next delivery gets. */
  readonly next: number
  /** Asks the server to do something; the page reloads when it is done. */
  readonly send: (asked: object) => void
}
export const DeliveringContext = createContext<Delivering | null>(null)

export function useDelivering(): Delivering {
  const delivering = useContext(DeliveringContext)
  if (!delivering) throw new Error('outside the maps screen')
  return delivering
}
