import type { Surface } from '#core/document/surface'
import type { Textures } from '../../session/engine/engine-client'
import type { StageView } from '../../session/view'
import type { OnModel } from './on-model'
import { onModelKey } from './on-model'
import type { Side } from './side.client'

/** What of a document the stage needs besides its textures. */
export interface StageMaterial {
  readonly metres: readonly [number, number]
  readonly heightMetres: number
  readonly emissionStrength: number
  readonly surface: Surface
}

/** What a place of the model that is not worked on wears. */
export interface Dress {
  readonly at: OnModel
  readonly textures: Textures
  readonly material: StageMaterial
}

/** What a place wears, as it is drawn. */
export interface Worn {
  readonly at: OnModel
  readonly side: Side
  readonly material: StageMaterial
}

/** What the places of a model wear that are not worked on. */
export class Dresses {
  private readonly worn = new Map<string, Worn>()

  constructor(private readonly newSide: () => Side) {}

  get count(): number {
    return this.worn.size
  }

  set({ at, textures, material }: Dress): void {
    const key = onModelKey(at)
    const side = this.worn.get(key)?.side ?? this.newSide()
    // What lies on IDs lies a little over what lies on all of the part.
    side.setLift(at.slot === undefined ? 0 : 1 + at.slot)
    side.receive(textures)
    this.worn.set(key, { at, side, material })
  }

  remove(at: OnModel): void {
    const key = onModelKey(at)
    this.worn.get(key)?.side.dispose()
    this.worn.delete(key)
  }

  /** Those that a view shows, made ready to be drawn in it. */
  seenIn(view: StageView, shining: number): Worn[] {
    // Plain grey is of the one that is worked on: what lies on IDs of it is not cut out there.
    const seen = [...this.worn.values()].filter(
      ({ at }) => view.shown === null && (at.slot === undefined ? !view.isolated : view.plain === 'no'),
    )
    for (const { side, material } of seen) {
      side.setSurface(material.surface, view.dithered)
      side.setLook(view.look, view.strand)
      side.lit.emissiveIntensity = material.emissionStrength * shining
    }
    return seen
  }

  dispose(): void {
    for (const { side } of this.worn.values()) side.dispose()
    this.worn.clear()
  }
}
