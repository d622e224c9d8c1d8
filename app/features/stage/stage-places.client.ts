import * as THREE from 'three'
import type { StageView } from '../../session/view'
import type { OnModel } from './on-model'
import type { StageModel } from './stage-model.client'
import { instancesOf, surfaceAt } from './surface'

/** A point of the canvas, in CSS pixels from its corner. */
export interface CanvasPoint {
  readonly x: number
  readonly y: number
}

type Three = readonly [number, number, number]

/** A place on the tile: u right, v down, both within 0–1. */
export interface StageUv {
  readonly view: 'shown' | 'comparison' | 'versus'
  readonly u: number
  readonly v: number
}

/** What is on the stage, and from where it is seen. */
export interface StageSight {
  readonly size: { readonly width: number; readonly height: number }
  readonly view: StageView | null
  /** Where two halves meet, 0–1, and what is right of that; null for one state. */
  readonly split: number | null
  readonly right: 'shown' | 'versus'
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.Material>
  readonly metres: readonly [number, number]
  /** The model, where it is shown. */
  readonly model: StageModel | null
  readonly perspective: THREE.PerspectiveCamera
  readonly flat: THREE.OrthographicCamera
  /** What the eye turns about. */
  readonly target: THREE.Vector3
}

/** Which places of the surface are at which points of the canvas. */
export class StagePlaces {
  private readonly ray = new THREE.Raycaster()

  constructor(private readonly sight: () => StageSight) {}

  /** The place of the tile under a point of the canvas; null off the shape. */
  uvAt(x: number, y: number): StageUv | null {
    const { view, size, split, right } = this.sight()
    const { worked } = this.hits(x, y)
    if (!view || !worked?.uv) return null
    const u = worked.uv.x - Math.floor(worked.uv.x)
    const v = 1 - worked.uv.y - Math.floor(1 - worked.uv.y)
    return { view: split !== null && x / size.width < split ? 'comparison' : right, u, v }
  }

  /** The place of the model under a point of the canvas that is not the one worked on; null where there is none. */
  otherPlaceAt(x: number, y: number): OnModel | null {
    return this.hits(x, y).other
  }

  /** The place of the part that is worked on under a point of the canvas, in metres, and which way it faces; null off the part. */
  surfaceOfPart(x: number, y: number): { readonly at: Three; readonly normal: Three } | null {
    const { model } = this.sight()
    const { worked } = this.hits(x, y)
    if (!model || !worked?.normal) return null
    const { x: a, y: b, z: c } = worked.normal
    return { at: model.metresAt(worked.point), normal: [a, b, c] }
  }

  /** What is nearest under a point of the canvas: what is worked on, or another place of the model. */
  private hits(x: number, y: number): { readonly worked: THREE.Intersection | null; readonly other: OnModel | null } {
    const { mesh, model } = this.aimed(x, y)
    const [hit] = this.ray.intersectObject(mesh, false)
    const other = model?.hit(this.ray)
    const isOther = other && (!hit || other.distance < hit.distance)
    return isOther ? { worked: null, other: other.place } : { worked: hit ?? null, other: null }
  }

  /** Where the line of sight through a point of the canvas meets a plane of the model, in metres; null where it does not. */
  onPlane({ x, y }: CanvasPoint, place: Three, normal: Three): Three | null {
    const { model } = this.aimed(x, y)
    if (!model) return null
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(new THREE.Vector3(...normal), model.drawnAt(place))
    const met = this.ray.ray.intersectPlane(plane, new THREE.Vector3())
    return met && model.metresAt(met)
  }

  /** The direction to the eye from what it turns about, of length 1. */
  get towardsEye(): Three {
    const { perspective, target } = this.sight()
    const { x, y, z } = perspective.position.clone().sub(target).normalize()
    return [x, y, z]
  }

  private aimed(x: number, y: number): StageSight {
    const sight = this.sight()
    const { width, height } = sight.size
    const camera = sight.view?.mode === 'flat' ? sight.flat : sight.perspective
    this.ray.setFromCamera(new THREE.Vector2((x / width) * 2 - 1, 1 - (y / height) * 2), camera)
    return sight
  }

  /** Where places of the model, in metres, are on the canvas; null where no model is shown. */
  modelPoints(places: readonly Three[]): CanvasPoint[] | null {
    const { model, perspective } = this.sight()
    return model && places.map((place) => this.onCanvas(model.drawnAt(place), perspective))
  }

  /** Where a place of the first tile is on the canvas in the flat view. */
  pointOf(u: number, v: number): CanvasPoint {
    const { view, metres, flat } = this.sight()
    const repeat = view?.repeat ?? 1
    return this.onCanvas(new THREE.Vector3(u - repeat / 2, ((repeat / 2 - v) * metres[1]) / metres[0], 0), flat)
  }

  /**
   * Where places of the tile (u right, v down, beyond its border too) are on the canvas: all on the face or lap of the shape where the
   * first of them is seen best. Null where it is seen on none.
   */
  pointsOf(places: readonly (readonly [number, number])[]): CanvasPoint[] | null {
    const { view, mesh, metres, perspective } = this.sight()
    if (!view) return null
    if (view.mode === 'flat') return places.map(([u, v]) => this.pointOf(u, v))
    const { shape, repeat } = view
    const at = (instance: number, [u, v]: readonly [number, number]) =>
      surfaceAt(shape, instance, u, v, repeat, metres[1] / metres[0])
    mesh.updateMatrixWorld()
    const facing = (instance: number): number => {
      const point = at(instance, places[0]!)
      const here = new THREE.Vector3(...point.at).applyMatrix4(mesh.matrixWorld)
      const out = new THREE.Vector3(...point.normal).transformDirection(mesh.matrixWorld)
      return out.dot(perspective.position.clone().sub(here).normalize())
    }
    const instances = Array.from({ length: instancesOf(shape, repeat) }, (_, i) => i)
    const best = instances.reduce((a, b) => (facing(b) > facing(a) ? b : a))
    if (facing(best) < 0.1) return null
    return places.map((place) =>
      this.onCanvas(new THREE.Vector3(...at(best, place).at).applyMatrix4(mesh.matrixWorld), perspective),
    )
  }

  /** Where a place of the scene is seen; it is changed. */
  private onCanvas(place: THREE.Vector3, camera: THREE.Camera): CanvasPoint {
    const { width, height } = this.sight().size
    const { x, y } = place.project(camera)
    return { x: ((x + 1) / 2) * width, y: ((1 - y) / 2) * height }
  }
}
