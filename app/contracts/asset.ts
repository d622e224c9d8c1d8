/** An image of the library. Decoded once, when it is imported. */
export interface Asset {
  readonly sha256: string
  readonly name: string
  readonly width: number
  readonly height: number
  readonly channels: 1 | 2 | 3 | 4
  readonly bits: 8 | 16 | 32
  readonly float: boolean
  /** It was brought into the project that is open, or a material there uses it. */
  readonly here: boolean
}

/** An image with the materials that name it, now or in an earlier state. */
export interface ShelfImage extends Asset {
  readonly usedIn: readonly { readonly id: string; readonly name: string; readonly project: string }[]
}
