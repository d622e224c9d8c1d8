/** A stretch of values that real surfaces keep to, in the numbers a file holds (0–1; colours sRGB-encoded). */
export interface PlausibleRange {
  readonly from: number
  readonly to: number
  readonly word: string
}

/** Brightest of red, green and blue. Common practice, from memory: non-metals sRGB 30–240, metals 180 and above. */
export const NON_METAL: PlausibleRange = {
  from: 30 / 255,
  to: 240 / 255,
  word: 'plausible for non-metals: sRGB 30 to 240',
}
export const METAL: PlausibleRange = { from: 180 / 255, to: 1, word: 'plausible for metals: sRGB 180 and above' }

/** Below it a surface is a mirror and its highlight a point. Source: glTF 2.0, appendix B.3.1 (alpha = roughness²). */
export const LEAST_ROUGHNESS = 0.02

/** What lies between is neither metal nor none. Common practice, from memory: 0.2 and 0.8. */
export const HALF_METAL = { from: 0.2, to: 0.8 } as const

/** Bands by channel, for charts. Channels without one may hold anything. */
export const PLAUSIBLE: Readonly<Record<string, readonly PlausibleRange[]>> = {
  colour: [NON_METAL],
  roughness: [{ from: LEAST_ROUGHNESS, to: 1, word: 'no mirror: 0.02 and above' }],
  metallic: [
    { from: 0, to: HALF_METAL.from, word: 'no metal' },
    { from: HALF_METAL.to, to: 1, word: 'metal' },
  ],
}
