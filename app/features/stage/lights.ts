import type { Lamp, StageView } from '../../session/view'

/** How strong the environment and what shines by itself are, by how bright it is around: eight times apart. */
export const SURROUNDING: Record<StageView['surroundings'], { readonly around: number; readonly shining: number }> = {
  'as lit': { around: 1, shining: 1 },
  dim: { around: 1 / 8, shining: 1 },
  bright: { around: 1, shining: 1 / 8 },
}

/** The least height of a lamp over the horizon, so that it still reaches what lies flat: sine of 4°. */
const LEAST = Math.sin((4 * Math.PI) / 180)

/**
 * Towards a lamp: a unit vector. Its place is seen as on a map of the sky, from above a shape and from before the flat view:
 * right, and away or up.
 */
export function lampTowards({ at }: Pick<Lamp, 'at'>, flat: boolean): [number, number, number] {
  const far = Math.hypot(...at)
  const most = Math.sqrt(1 - LEAST * LEAST)
  const by = far > most ? most / far : 1
  const [x, y] = [at[0] * by, at[1] * by]
  const up = Math.sqrt(1 - x * x - y * y)
  return flat ? [x, y, up] : [x, up, -y]
}

/** The same lamp low over the horizon, so that relief throws light and shade: raking light. */
export function raking({ at }: Pick<Lamp, 'at'>): [number, number] {
  const far = Math.hypot(...at)
  return far < 1e-3 ? [-0.98, 0] : [(at[0] / far) * 0.98, (at[1] / far) * 0.98]
}
