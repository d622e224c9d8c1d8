import { atan2Turns, cosTurns, sinTurns } from '../elementary'

/** The four numbers by which places of the result become places of the source, about the middle. */
export interface Turned {
  readonly a: number
  readonly b: number
  readonly c: number
  readonly d: number
  /** How often the source goes into the tile along a side, and how far it is turned: what the numbers came to. */
  readonly repeats: number
  readonly turns: number
}

/** Free: turned by any angle, any size. */
export function freeTurn(turns: number, scale: number): Turned {
  const [x, y] = [cosTurns(turns) / scale, sinTurns(turns) / scale]
  return { a: x, b: -y, c: y, d: x, repeats: 1 / scale, turns }
}

/**
 * The nearest turn and size that tile: the source's lattice must lie within the tile's, so the numbers are whole. On a
 * square tile those are p + qi as complex numbers; on others only half turns keep the axes. Own derivation.
 */
export function tilingTurn(turns: number, scale: number, square: boolean): Turned {
  const [x, y] = [cosTurns(turns) / scale, sinTurns(turns) / scale]
  if (!square) {
    const p = Math.max(1, Math.round(Math.abs(1 / scale))) * (x < 0 ? -1 : 1)
    return { a: p, b: 0, c: 0, d: p, repeats: Math.abs(p), turns: p < 0 ? 0.5 : 0 }
  }
  let [p, q] = [Math.round(x), Math.round(y)]
  if (p === 0 && q === 0) {
    if (Math.abs(x) >= Math.abs(y)) p = x < 0 ? -1 : 1
    else q = y < 0 ? -1 : 1
  }
  return { a: p, b: -q + 0, c: q, d: p, repeats: Math.sqrt(p * p + q * q), turns: atan2Turns(q, p) }
}
