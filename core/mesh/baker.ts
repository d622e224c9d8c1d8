import type { Room } from '../kernels/baking-room'
import type { RayTree } from '../kernels/ray-tree'
import type { Mesh } from './mesh'
import type { TexelSamples } from './raster'
import type { PartSurface } from './surface'

/** A mesh with the tree that rays go through. */
export interface Traced {
  readonly mesh: Mesh
  readonly tree: RayTree
}

/** How mesh data is baked. Lengths in metres. */
export interface BakeOptions {
  /** Rays a texel, of occlusion, bent normal, thickness and light: its samples share them. */
  readonly rays: number
  /** Texels from one to the next that rays about it are sent from (sparse.ts); 1 is all. */
  readonly rayStep: number
  /** How far rays of occlusion look; beyond it nothing hides. */
  readonly reach: number
  /** The part of the reach over which what is far hides less and less, 0–1. */
  readonly fade: number
  /** How far off the surface rays begin. */
  readonly bias: number
  /** Half the opening of the cone that occlusion looks into, and that of thickness, in turns. */
  readonly spreadTurns: number
  readonly coneTurns: number
  /** Thickness beyond which nothing is told apart. */
  readonly thickest: number
  /** Radius of curvature and of rounded edges. */
  readonly radius: number
  /** How far outside and inside of the surface its high twin is looked for. */
  readonly front: number
  readonly back: number
  /** How long runs of water are at most, and how much their lengths differ from place to place, 0–1. */
  readonly leakLength: number
  readonly leakVariation: number
  /** Where the sun stands: its height above the horizon and its way from +Z towards +X, in turns; its share of all light, 0–1. */
  readonly sunHeightTurns: number
  readonly sunTurns: number
  readonly sunShare: number
  /** Where an image lies that is transferred: 0 on the model itself, 1 on its high twin; and in which of its UV sets, from 0. */
  readonly transferFrom: number
  /** How a place on the high twin is found for it: 0 by a ray, 1 as the nearest within `front` or `back`, whichever is larger. */
  readonly transferBy: number
  readonly transferSet: number
}

/** An image that is transferred: colours in linear light, three numbers a texel, top row first. */
export interface Texture {
  readonly width: number
  readonly height: number
  readonly values: Float32Array
}

/** What a kind of mesh data is made from, for some rows. */
export interface BakeContext {
  readonly surface: PartSurface
  readonly samples: TexelSamples
  /** Places and normals of the samples, six numbers each. */
  readonly places: Float32Array
  /** Samples a texel. */
  readonly perTexel: number
  /** Number of the first sample: what turns its rays. The same for the same texels, whatever the rows. */
  readonly firstNumber: number
  /** All that hides: the high twin where there is one, else the model itself. */
  readonly scene: Traced
  /** The high twin; null where there is none. */
  readonly high: Traced | null
  /** Where rays to the high twin begin instead of at a distance: places of a cage, by the vertices of the mesh. */
  readonly cage: Float32Array | null
  readonly texture: Texture | null
  readonly options: BakeOptions
  /** What several kinds are made of, by a name for it: made once. */
  readonly shared: Map<string, unknown>
  /** Room for numbers, until these rows are done. */
  readonly room: Room
  /** Throws where the work was cancelled. */
  check(): void
}

/** What numbers in metres are shown against. */
export interface ShownScale {
  readonly options: BakeOptions
  /** The corners of the box around the model. */
  readonly box: { readonly min: readonly number[]; readonly max: readonly number[] }
}

/** A kind of mesh data: one file in bakers/. */
export interface Baker {
  readonly name: string
  readonly title: string
  /** What it is, in one sentence; with its unit and range. */
  readonly help: string
  readonly type: 'grey' | 'normal' | 'vector' | 'id'
  /** Its place among the kinds, as lists have them. */
  readonly order: number
  /** Whether it is made from the part alone, or from all of the model and its high twin. */
  readonly reads: 'part' | 'model'
  /** Options that change what it comes to. Kinds that read the same by the same options are made together. */
  readonly uses: readonly (keyof BakeOptions)[]
  /** What lies where nothing is: between islands, beyond padding. */
  readonly empty: readonly number[]
  /** Numbers for a picture of 0–1, where the data are none; absent where they are. */
  readonly shown?: (value: number, plane: number, scale: ShownScale) => number
  /** True where it can be made of a high twin only. */
  readonly needsHigh?: true
  /** True where it is made by rays about samples, which drafts send from some of them only: it uses `rayStep`. */
  readonly sparse?: true
  /**
   * What texels about an island's border have: what lies where the surface goes on (numbers of parts never), that turned with the
   * picture, for directions along it, or the island's own.
   */
  readonly rim?: 'beyond' | 'turned' | 'own'
  /** True where it is made of an image. */
  readonly needsTexture?: true
  /** Its values, `planes` numbers a sample; NaN in the first where a sample has none (a ray that met nothing). */
  bake(context: BakeContext): Float32Array
}
