/** A place of a model: a part, one tile of its UVs where it lies in several, and what lies on IDs of it, by its slot. */
export interface OnModel {
  readonly part: number
  readonly udim?: number | undefined
  readonly slot?: number | undefined
}

/** UV sets that can be looked at: three.js has names for so many besides the one that a material lies in. */
export const UV_SETS = 3

/** The channel of UVs, as three.js counts them, that a UV set is in beside the one that a material lies in. */
export const uvChannel = (uvSet: number): number => uvSet + 1

export const onModelKey = ({ part, udim, slot }: OnModel): string => `${part} ${udim ?? ''} ${slot ?? ''}`

export const isSamePlace = (a: OnModel, b: OnModel): boolean => onModelKey(a) === onModelKey(b)
