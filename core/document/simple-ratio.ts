/** Steps of a ratio at which tiles have whole rows at every usual size, drafts too. */
const STEPS = 32

/** Height over width of a picture, as near as a tile can have it whatever its size: to a 32nd. */
export const simpleRatio = (width: number, height: number): number =>
  Math.max(1, Math.round((STEPS * height) / width)) / STEPS
