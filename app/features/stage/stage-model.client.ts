import * as THREE from 'three'
import type { PartGeometry } from '#runtime/browser/model.worker'
import type { OnModel } from './on-model'
import { UV_SETS, onModelKey, uvChannel } from './on-model'

const CLAY = 0xb4b4b2
/** How large a model is drawn: the radius of the sphere around it. */
const RADIUS = 1.1

type ModelMesh = THREE.Mesh<THREE.BufferGeometry, THREE.Material>

/** A model as the stage shows it, as large as a sphere is: one place of it is worked on, the others stand around it. */
export class StageModel {
  /** Of the place that is worked on. */
  readonly geometry: THREE.BufferGeometry
  /** The other places, and what lies on IDs of theirs. */
  readonly others = new THREE.Group()
  /** What lies over the place that is worked on. */
  readonly over = new THREE.Group()
  private readonly meshes = new Map<string, ModelMesh>()
  private readonly places = new Map<THREE.Object3D, OnModel>()
  private readonly geometries = new Map<string, THREE.BufferGeometry>()
  private readonly clay = new THREE.MeshStandardMaterial({ color: CLAY, roughness: 0.7 })
  private readonly worked: string
  private readonly sphere: THREE.Sphere
  /** The sphere around the place that is worked on, as it is drawn. */
  readonly bounds: THREE.Sphere

  constructor(parts: readonly PartGeometry[], places: readonly OnModel[], worked: OnModel) {
    this.worked = onModelKey(worked)
    const sphere = (this.sphere = sphereAround(parts))
    const wholes = parts.map((one) => geometryOf(one, sphere))
    for (const place of places) {
      const [whole, part] = [wholes[place.part], parts[place.part]]
      if (!whole || !part) continue
      const geometry = place.udim === undefined ? whole : stretchOf(whole, part, place.udim)
      this.geometries.set(onModelKey(place), geometry)
      if (onModelKey(place) !== this.worked) this.others.add(this.add(onModelKey(place), geometry, place))
    }
    this.geometry = this.geometries.get(this.worked) ?? new THREE.BufferGeometry()
    this.bounds = boundsOf(this.geometry)
  }

  /** A place of the model, in metres, as it is drawn; and back. */
  drawnAt([x, y, z]: readonly [number, number, number]): THREE.Vector3 {
    return new THREE.Vector3(x, y, z).sub(this.sphere.center).multiplyScalar(RADIUS / this.sphere.radius)
  }

  metresAt(drawn: THREE.Vector3): [number, number, number] {
    const { x, y, z } = drawn
      .clone()
      .multiplyScalar(this.sphere.radius / RADIUS)
      .add(this.sphere.center)
    return [x, y, z]
  }

  private add(key: string, geometry: THREE.BufferGeometry, place: OnModel): ModelMesh {
    const mesh = new THREE.Mesh<THREE.BufferGeometry, THREE.Material>(geometry, this.clay)
    this.meshes.set(key, mesh)
    this.places.set(mesh, place)
    return mesh
  }

  /**
   * What places are seen through, by their keys: others that have nothing stay plain, what would lie on IDs of a place is not drawn then.
   */
  wear(dressed: readonly { readonly at: OnModel; readonly material: THREE.Material }[]): void {
    for (const mesh of this.meshes.values()) mesh.material = this.clay
    for (const mesh of this.meshes.values()) mesh.visible = this.places.get(mesh)!.slot === undefined
    for (const { at, material } of dressed) {
      const mesh = this.meshes.get(onModelKey(at)) ?? this.addOver(at)
      if (!mesh) continue
      mesh.material = material
      mesh.visible = true
    }
  }

  /** A material over IDs of a place. */
  private addOver(at: OnModel): ModelMesh | null {
    const below = onModelKey({ ...at, slot: undefined })
    const geometry = this.geometries.get(below)
    if (!geometry) return null
    const mesh = this.add(onModelKey(at), geometry, at)
    mesh.renderOrder = 1 + (at.slot ?? 0)
    ;(below === this.worked ? this.over : this.others).add(mesh)
    return mesh
  }

  /** The nearest of the others along a ray. */
  hit(ray: THREE.Raycaster): { readonly place: OnModel; readonly distance: number } | null {
    if (!this.others.visible) return null
    const [first] = ray.intersectObject(this.others, true)
    return first ? { place: this.places.get(first.object)!, distance: first.distance } : null
  }

  dispose(): void {
    this.others.removeFromParent()
    this.over.removeFromParent()
    for (const geometry of this.geometries.values()) geometry.dispose()
    this.clay.dispose()
  }
}

function sphereAround(parts: readonly PartGeometry[]): THREE.Sphere {
  const box = new THREE.Box3()
  for (const { positions } of parts) box.union(new THREE.Box3().setFromArray(positions))
  const middle = box.getCenter(new THREE.Vector3())
  let radius = 0
  for (const { positions } of parts)
    for (let i = 0; i < positions.length; i += 3)
      radius = Math.max(radius, middle.distanceToSquared(new THREE.Vector3().fromArray(positions, i)))
  return new THREE.Sphere(middle, Math.sqrt(radius) || 1)
}

/** The sphere around the vertices that a geometry uses. */
function boundsOf(geometry: THREE.BufferGeometry): THREE.Sphere {
  const [places, used] = [geometry.getAttribute('position'), geometry.getIndex()]
  const box = new THREE.Box3()
  const at = new THREE.Vector3()
  const each = (work: () => void): void => {
    for (let i = 0; i < (used?.count ?? 0); i++) {
      at.fromBufferAttribute(places, used!.getX(i))
      work()
    }
  }
  each(() => box.expandByPoint(at))
  const middle = box.getCenter(new THREE.Vector3())
  let square = 0
  each(() => (square = Math.max(square, middle.distanceToSquared(at))))
  return new THREE.Sphere(middle, Math.sqrt(square) || RADIUS)
}

/** Rows of our pictures run downward, those of three.js upward. */
function geometryOf(
  { positions, normals, uvs, sets, tangents, indices }: PartGeometry,
  { center, radius }: THREE.Sphere,
): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry()
  geometry.setAttribute('position', new THREE.BufferAttribute(positions.slice(), 3))
  geometry.setAttribute('normal', new THREE.BufferAttribute(normals, 3))
  const upward = (own: Float32Array): THREE.BufferAttribute =>
    new THREE.BufferAttribute(
      own.map((v, i) => (i % 2 ? 1 - v : v)),
      2,
    )
  geometry.setAttribute('uv', upward(uvs ?? new Float32Array((positions.length / 3) * 2)))
  sets.slice(0, UV_SETS).forEach((set, i) => geometry.setAttribute(`uv${uvChannel(i)}`, upward(set)))
  if (tangents) geometry.setAttribute('tangent', new THREE.BufferAttribute(tangents, 4))
  geometry.setIndex(new THREE.BufferAttribute(indices, 1))
  geometry.translate(-center.x, -center.y, -center.z)
  geometry.scale(RADIUS / radius, RADIUS / radius, RADIUS / radius)
  return geometry
}

/** What of a part lies in one tile of its UVs. */
function stretchOf(whole: THREE.BufferGeometry, { tiles, indices }: PartGeometry, udim: number): THREE.BufferGeometry {
  const { start, count } = tiles.find((one) => one.udim === udim) ?? { start: 0, count: 0 }
  const geometry = new THREE.BufferGeometry()
  for (const [name, attribute] of Object.entries(whole.attributes)) geometry.setAttribute(name, attribute)
  geometry.setIndex(new THREE.BufferAttribute(indices.subarray(start, start + count), 1))
  return geometry
}
