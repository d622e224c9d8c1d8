/**
 * Rows above and below that an output row reads: the whole raster, or a radius in texels; `point` where each texel
 * depends on the inputs at that texel alone, so that inputs of one value give one value.
 */
export type Footprint = 'point' | 'whole' | number

/** What a footprint may depend on. */
export interface FootprintSize {
  readonly width: number
  readonly height: number
  readonly metres: readonly [number, number]
}

/** A footprint that depends on parameters; written as a method, so that any node is a NodeDefinition. */
export type FootprintOf<P> = { of(params: P, size: FootprintSize): Footprint }['of']

/** The footprint of a node as its parameters stand. Units: texels of a raster of `size`. */
export const footprintOf = (
  { footprint }: { readonly footprint: Footprint | FootprintOf<never> },
  params: Readonly<Record<string, unknown>>,
  size: FootprintSize,
): Footprint => (typeof footprint === 'function' ? footprint(params as never, size) : footprint)
