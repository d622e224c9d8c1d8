import { fitted } from '../../ui/numbers'

/** A pair with one part set and the other in its old ratio to it, within the parameter's range. */
export function inRatio(
  [across, down]: readonly [number, number],
  index: 0 | 1,
  value: number,
  { whole, min, max }: { whole: boolean; min: number; max: number },
): [number, number] {
  const [own, other] = index === 0 ? [across, down] : [down, across]
  const followed = fitted(own === 0 ? value : (other / own) * value, { whole, min, max })
  return index === 0 ? [value, followed] : [followed, value]
}
