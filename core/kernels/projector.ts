import { cosTurns, sinTurns } from '../elementary'

export type Three = readonly [number, number, number]

/** Where a projector stands and how it is turned: metres and turns. It looks along −Z when nothing is turned. */
export interface ProjectorPlace {
  readonly x: number
  readonly y: number
  readonly z: number
  readonly heading: number
  readonly tilt: number
  readonly turn: number
}

/** Turns directions of the model into those of the projector: right, up, and towards it. */
export function towardsProjector({
  heading,
  tilt,
  turn,
}: Pick<ProjectorPlace, 'heading' | 'tilt' | 'turn'>): (a: number, b: number, c: number) => Three {
  const [sh, ch] = [sinTurns(heading), cosTurns(heading)]
  const [st, ct] = [sinTurns(tilt), cosTurns(tilt)]
  const [sr, cr] = [sinTurns(turn), cosTurns(turn)]
  return (a, b, c) => {
    const [right, front] = [a * ch - c * sh, a * sh + c * ch]
    const [up, out] = [b * ct - front * st, b * st + front * ct]
    return [right * cr + up * sr, up * cr - right * sr, out]
  }
}

/** Directions of a projector in the space of the model: right and up of its picture, and the way to it. */
export function projectorAxes(place: Pick<ProjectorPlace, 'heading' | 'tilt' | 'turn'>): {
  readonly right: Three
  readonly up: Three
  readonly out: Three
} {
  const turned = towardsProjector(place)
  const columns = [turned(1, 0, 0), turned(0, 1, 0), turned(0, 0, 1)]
  const row = (k: 0 | 1 | 2): Three => [columns[0]![k], columns[1]![k], columns[2]![k]]
  return { right: row(0), up: row(1), out: row(2) }
}
