/** A place of a model: a part, one tile of its UVs where it lies in several, and what lies on IDs of it, by its slot. */
export interface OnModel {
  readonly part: number
  readonly udim?: number | undefined
  readonly slot?: number | undefined
}

export const onModelKey = ({ part, udim, slot }: OnModel): string => `${part} ${udim ?? ''} ${slot ?? ''}`

export const isSamePlace = (a: OnModel, b: OnModel): boolean => onModelKey(a) === onModelKey(b)
