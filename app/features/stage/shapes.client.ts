import * as THREE from 'three'
import type { StageView } from '../../session/view'
import { makeBody } from './body'
import { SIZES, around } from './surface'

/** A shape that the material lies on; flat is the plane seen from above, unlit by displacement. */
export type Shape = StageView['shape'] | 'flat'

/** How finely shapes are divided where height moves them, at rest and while something moves, and where it does not. */
export type Fineness = 'fine' | 'coarse' | 'plain'
/** Vertices along a side of the plane, and along a tile of what else there is. */
const DIVIDED = { fine: { plane: 384, tile: 160 }, coarse: { plane: 128, tile: 64 }, plain: { plane: 1, tile: 1 } }
/** Within this distance of an edge, or of a pole, height moves less and less: what meets there has other heights. */
const FADE = 0.06
/** Geometries that are kept. */
const KEPT = 12

/** Geometries of the shapes, made when they are asked for. Each has an attribute `relief`: how far height may move a vertex. */
export class Shapes {
  private readonly known = new Map<string, THREE.BufferGeometry>()

  /** A shape with the tile laid `repeat` times along each side; `aspect` is how much taller than wide the tile is. */
  get(shape: Shape, repeat: number, aspect: number, fineness: Fineness): THREE.BufferGeometry {
    const name = `${shape} ${repeat} ${aspect} ${shape === 'flat' ? '' : fineness}`
    const known = this.known.get(name)
    if (known) return known
    const made = make(shape, repeat, aspect, fineness)
    const uv = made.getAttribute('uv')
    // A sphere is twice as long around as from pole to pole; the body has its tiles already.
    const across = repeat * (shape === 'flat' || shape === 'body' ? 1 : around(shape))
    for (let i = 0; i < uv.count; i++) uv.setXY(i, uv.getX(i) * across, uv.getY(i) * repeat)
    if (this.known.size >= KEPT) {
      const [oldest] = this.known
      oldest![1].dispose()
      this.known.delete(oldest![0])
    }
    this.known.set(name, made)
    return made
  }

  dispose(): void {
    for (const geometry of this.known.values()) geometry.dispose()
  }
}

function make(shape: Shape, repeat: number, aspect: number, fineness: Fineness): THREE.BufferGeometry {
  const { plane, tile } = DIVIDED[fineness]
  const { cube, cylinder } = SIZES
  switch (shape) {
    case 'sphere': {
      const [columns, rows] = fineness === 'plain' ? [128, 64] : [tile * 2, tile]
      return withRelief(new THREE.SphereGeometry(1, columns, rows), (_, y) => Math.acos(Math.min(1, Math.abs(y))))
    }
    case 'cube':
      // How far from the edges of the face: the two coordinates that are not the face's own.
      return withRelief(new THREE.BoxGeometry(cube, cube, cube, tile, tile, tile), (x, y, z) => {
        const [, second] = [x, y, z].map((v) => cube / 2 - Math.abs(v)).sort((a, b) => a - b)
        return second!
      })
    case 'cylinder': {
      const { radius, height } = cylinder
      const made = new THREE.CylinderGeometry(radius, radius, height, fineness === 'plain' ? 96 : tile * 2, tile)
      // Its ends are fans, whose middle alone could move.
      return withRelief(made, (_, y, __, normal) => (Math.abs(normal) > 0.5 ? 0 : height / 2 - Math.abs(y)))
    }
    case 'plane':
      return withRelief(
        new THREE.PlaneGeometry(SIZES.plane, SIZES.plane * aspect, plane, Math.max(1, Math.round(plane * aspect))),
        () => FADE,
      )
    case 'body': {
      const { positions, normals, uvs, relief, indices } = makeBody(
        fineness === 'fine' ? 0.014 : fineness === 'coarse' ? 0.03 : 0.06,
        fineness === 'fine' ? 420 : fineness === 'coarse' ? 210 : 192,
      )
      const made = new THREE.BufferGeometry()
      made.setAttribute('position', new THREE.BufferAttribute(positions, 3))
      made.setAttribute('normal', new THREE.BufferAttribute(normals, 3))
      made.setAttribute('uv', new THREE.BufferAttribute(uvs, 2))
      made.setAttribute('relief', new THREE.BufferAttribute(relief, 1))
      made.setIndex(new THREE.BufferAttribute(indices, 1))
      return made
    }
    case 'flat':
      return new THREE.PlaneGeometry(repeat, repeat * aspect)
  }
}

/** With the relief that distances from edges give; `distance` has a vertex's place and the second coordinate of its normal. */
function withRelief(
  made: THREE.BufferGeometry,
  distance: (x: number, y: number, z: number, up: number) => number,
): THREE.BufferGeometry {
  const position = made.getAttribute('position')
  const normal = made.getAttribute('normal')
  const relief = Float32Array.from({ length: position.count }, (_, i) =>
    Math.min(1, distance(position.getX(i), position.getY(i), position.getZ(i), normal.getY(i)) / FADE),
  )
  made.setAttribute('relief', new THREE.BufferAttribute(relief, 1))
  return made
}
