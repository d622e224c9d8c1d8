import * as THREE from 'three'
import type { PartGeometry } from '#runtime/browser/model.worker'

const CLAY = 0xb4b4b2

/** A model as the stage shows it, as large as a sphere is: one part carries the material, the others are plain. */
export class StageModel {
  readonly geometry: THREE.BufferGeometry
  readonly others = new THREE.Group()
  private readonly clay = new THREE.MeshStandardMaterial({ color: CLAY, roughness: 0.7 })

  constructor(parts: readonly PartGeometry[], part: number) {
    const sphere = sphereAround(parts)
    const made = parts.map((one) => geometryOf(one, sphere))
    this.geometry = made[part] ?? new THREE.BufferGeometry()
    for (const [i, geometry] of made.entries()) if (i !== part) this.others.add(new THREE.Mesh(geometry, this.clay))
  }

  dispose(): void {
    this.others.removeFromParent()
    this.geometry.dispose()
    for (const one of this.others.children) (one as THREE.Mesh).geometry.dispose()
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
  geometry.scale(1.1 / radius, 1.1 / radius, 1.1 / radius)
  return geometry
}
