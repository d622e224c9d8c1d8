import type { Polygon } from '../polygon'

/** How units are asked for. Lengths in tile widths; `height` is the tile's. */
export interface BondRequest {
  /** Lengths of a unit that go across the tile. */
  readonly columns: number
  /** Length of a unit over its breadth. */
  readonly aspect: number
  /** How far courses are moved against each other, as a share of a unit. */
  readonly shift: number
  /** How far chevrons rise, in turns. */
  readonly slant: number
  /** Arcs in a fan. */
  readonly rings: number
  /** How unequal random widths are, 0–1. */
  readonly spread: number
  readonly height: number
  /** A random number in 0–1 for whole numbers. */
  random(a: number, b: number): number
}

/** One unit as it would lie without a gap: a convex outline, and the direction of its length in turns. */
export interface Laid {
  readonly outline: Polygon
  readonly turns: number
}

/** Units that repeat by 1 across and by the tile's height down, and what the request came to. */
export interface Laying {
  readonly units: readonly Laid[]
  /** Units across and down as counted for the interface. */
  readonly counts: readonly [number, number]
}

export type Bond = (request: BondRequest) => Laying

/** The nearest whole multiple of `step` to `wanted`, one step at the least. */
export const snap = (wanted: number, step = 1): number => Math.max(1, Math.round(wanted / step)) * step

export const rectangle = (x0: number, y0: number, x1: number, y1: number): Polygon => [x0, y0, x1, y0, x1, y1, x0, y1]
