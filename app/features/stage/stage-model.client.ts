import * as THREE from 'three'
import type { PartGeometry } from '#runtime/browser/model.worker'

const CLAY = 0xb4b4b2
/** How large a model is drawn: the radius of the sphere around it. */
const RADIUS = 1.1

/** A model as the stage shows it, as large as a sphere is: one part is worked on, the others stand around it. */
export class StageModel {
  /** Of the part that is worked on. */
  readonly geometry: THREE.BufferGeometry
  readonly others = new THREE.Group()
  /** Meshes of the others, by the numbers of their parts. */
  private readonly meshes = new Map<number, THREE.Mesh<THREE.BufferGeometry, THREE.Material>>()
  private readonly clay = new THREE.MeshStandardMaterial({ color: CLAY, roughness: 0.7 })

  constructor(parts: readonly PartGeometry[], part: number) {
    const sphere = sphereAround(parts)
    const made = parts.map((one) => geometryOf(one, sphere))
    this.geometry = made[part] ?? new THREE.BufferGeometry()
    for (const [i, geometry] of made.entries())
      if (i !== part) this.meshes.set(i, new THREE.Mesh<THREE.BufferGeometry, THREE.Material>(geometry, this.clay))
    for (const mesh of this.meshes.values()) this.others.add(mesh)
  }

  /** What the others are seen through, by the numbers of their parts; those without stay plain. */
  wear(materialOf: (part: number) => THREE.Material | null): void {
    for (const [part, mesh] of this.meshes) mesh.material = materialOf(part) ?? this.clay
  }

  /** The nearest of the others along a ray. */
  hit(ray: THREE.Raycaster): { readonly part: number; readonly distance: number } | null {
    if (!this.others.visible) return null
    const [first] = ray.intersectObject(this.others, true)
    if (!first) return null
    const [part] = [...this.meshes].find(([, mesh]) => mesh === first.object)!
    return { part, distance: first.distance }
  }

  dispose(): void {
    this.others.removeFromParent()
    this.geometry.dispose()
    for (const { geometry } of this.meshes.values()) geometry.dispose()
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

/** Rows of our pictures run downward, those of three.js upward. */
function geometryOf(
  { positions, normals, uvs, tangents, indices }: PartGeometry,
  { center, radius }: THREE.Sphere,
): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry()
  geometry.setAttribute('position', new THREE.BufferAttribute(positions.slice(), 3))
  geometry.setAttribute('normal', new THREE.BufferAttribute(normals, 3))
  const upward = (uvs ?? new Float32Array((positions.length / 3) * 2)).map((v, i) => (i % 2 ? 1 - v : v))
  geometry.setAttribute('uv', new THREE.BufferAttribute(upward, 2))
  if (tangents) geometry.setAttribute('tangent', new THREE.BufferAttribute(tangents, 4))
  geometry.setIndex(new THREE.BufferAttribute(indices, 1))
  geometry.translate(-center.x, -center.y, -center.z)
  geometry.scale(RADIUS / radius, RADIUS / radius, RADIUS / radius)
  return geometry
}
