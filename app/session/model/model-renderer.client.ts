import * as THREE from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import type { PartPoint } from '#core/mesh/part-ids'
import type { PartGeometry } from '#runtime/browser/model.worker'

/** What lies on the model: plain grey, grey with its baked normals and occlusion, one kind of data unlit, or squares. */
export type ModelSurface = 'plain' | 'baked' | 'data' | 'checker'

/** Pictures for a tile of a part; addresses. */
export interface TilePictures {
  readonly part: number
  readonly udim: number
  readonly data?: string
  readonly normal?: string
  readonly occlusion?: string
}

export interface ModelLook {
  readonly surface: ModelSurface
  readonly shows: 'low' | 'high' | 'both'
  readonly cage: boolean
  readonly pictures: readonly TilePictures[]
  /** The chosen part; alone where `isolated`. */
  readonly part: number | null
  readonly isolated: boolean
}

/** Triangles of a part that are pointed out: 1 for each. */
export interface PartMarks {
  readonly part: number
  readonly triangles: Uint8Array
}

export type ModelParts = Partial<Record<'low' | 'high' | 'cage', readonly PartGeometry[]>>

/** The neutral grey that colour is judged on, sRGB 119 of 255. */
const VIEW_GREY = 0x777777
const CLAY = 0xb4b4b2
const AMBER = 0xe39a3b
/** Squares along a tile, and texels along a side of their picture. */
const CHECKS = 32

/** Draws a model with what was baked of it. Draws only when something changed. */
export class ModelRenderer {
  private readonly gl: THREE.WebGLRenderer
  private readonly scene = new THREE.Scene()
  private readonly camera = new THREE.PerspectiveCamera(30, 1, 0.01, 100)
  private readonly orbit: OrbitControls
  private readonly key = new THREE.DirectionalLight(0xffffff, 2.2)
  private readonly groups = { low: new THREE.Group(), high: new THREE.Group(), cage: new THREE.Group() }
  private readonly textures = new Map<string, THREE.Texture>()
  private readonly loader = new THREE.TextureLoader()
  private readonly clay = new THREE.MeshStandardMaterial({ color: CLAY, roughness: 0.6 })
  private readonly wire = new THREE.MeshBasicMaterial({
    color: AMBER,
    wireframe: true,
    transparent: true,
    opacity: 0.55,
  })
  private readonly lowWire = new THREE.MeshBasicMaterial({
    color: 0x1d1d1c,
    wireframe: true,
    transparent: true,
    opacity: 0.5,
  })
  private readonly mark = new THREE.MeshBasicMaterial({
    color: AMBER,
    transparent: true,
    opacity: 0.7,
    polygonOffset: true,
    polygonOffsetFactor: -1,
    polygonOffsetUnits: -1,
  })
  private marked: THREE.Mesh | null = null
  private marks: PartMarks | null = null
  private readonly checker = new THREE.MeshLambertMaterial({ map: checkerTexture() })
  private readonly made: THREE.Material[] = []
  private readonly ray = new THREE.Raycaster()
  private look: ModelLook | null = null
  private size = { width: 1, height: 1 }
  private frame = 0
  private frames = 0
  private disposed = false
  private sphere = new THREE.Sphere(new THREE.Vector3(), 1)

  constructor(
    readonly canvas: HTMLCanvasElement,
    /** Called after each frame, with how many have been drawn and whether all its pictures were there. */
    private readonly onDrawn: (frames: number, complete: boolean) => void,
  ) {
    this.gl = new THREE.WebGLRenderer({ canvas, antialias: true, powerPreference: 'high-performance' })
    this.gl.toneMapping = THREE.NoToneMapping
    this.scene.background = new THREE.Color(VIEW_GREY)
    this.scene.add(new THREE.HemisphereLight(0xffffff, 0x8a8a88, 1.4), this.camera, ...Object.values(this.groups))
    // The light goes along with the eye, from above its left, so that relief is seen from every side.
    this.camera.add(this.key, this.key.target)
    this.key.position.set(-1.2, 1.6, 1)
    this.key.target.position.set(0, 0, -2)
    this.orbit = new OrbitControls(this.camera, canvas)
    this.orbit.enableDamping = false
    this.orbit.zoomToCursor = true
    this.orbit.addEventListener('change', () => this.draw())
  }

  /** Takes geometries in; the view is fitted where the model is another one. */
  setParts(parts: ModelParts, fit: boolean): void {
    for (const [role, group] of Object.entries(this.groups) as [keyof ModelParts, THREE.Group][]) {
      group.traverse((one) => one instanceof THREE.Mesh && (one.geometry as THREE.BufferGeometry).dispose())
      group.clear()
      for (const part of parts[role] ?? []) group.add(meshOf(part))
    }
    if (fit) this.fit()
    if (this.look) this.setLook(this.look)
    this.setMarks(this.marks)
  }

  /** Points triangles of a part out, 1 for each that is meant; null takes that away. */
  setMarks(marks: PartMarks | null): void {
    this.marks = marks
    this.marked?.removeFromParent()
    this.marked?.geometry.dispose()
    this.marked = null
    const mesh = marks && (this.groups.low.children[marks.part] as THREE.Mesh | undefined)
    if (mesh) {
      const { order } = mesh.userData as MeshNotes
      const from = mesh.geometry.getIndex()!.array
      const index: number[] = []
      order.forEach((triangle, t) => {
        if (marks.triangles[triangle]) index.push(from[t * 3]!, from[t * 3 + 1]!, from[t * 3 + 2]!)
      })
      const geometry = new THREE.BufferGeometry()
      geometry.setAttribute('position', mesh.geometry.getAttribute('position'))
      geometry.setIndex(index)
      this.marked = new THREE.Mesh(geometry, this.mark)
      this.scene.add(this.marked)
    }
    this.canvas.dataset.marked = String((this.marked?.geometry.getIndex()?.count ?? 0) / 3)
    this.draw()
  }

  setLook(look: ModelLook): void {
    this.look = look
    const { surface, shows, cage, part, isolated } = look
    for (const material of this.made.splice(0)) material.dispose()
    const { low, high, cage: grown } = this.groups
    low.visible = true
    high.visible = shows !== 'low'
    grown.visible = cage
    low.children.forEach((child, i) => {
      const mesh = child as THREE.Mesh
      mesh.visible = shows !== 'high' && (!isolated || part === null || part === i)
      mesh.material = shows === 'both' ? this.lowWire : this.materialsOf(i, mesh, surface)
    })
    for (const child of high.children) (child as THREE.Mesh).material = this.clay
    for (const child of grown.children) (child as THREE.Mesh).material = this.wire
    this.draw()
  }

  private materialsOf(part: number, mesh: THREE.Mesh, surface: ModelSurface): THREE.Material | THREE.Material[] {
    if (surface === 'plain' || !mesh.geometry.getAttribute('uv')) return this.clay
    if (surface === 'checker') return this.checker
    return (mesh.userData as MeshNotes).tiles.map((udim) => {
      const pictures = this.look!.pictures.find((one) => one.part === part && one.udim === udim)
      if (!pictures || (surface === 'data' && !pictures.data)) return this.clay
      const material =
        surface === 'data'
          ? new THREE.MeshBasicMaterial({ map: this.texture(pictures.data!, true) })
          : new THREE.MeshStandardMaterial({
              color: CLAY,
              roughness: 0.6,
              normalMap: pictures.normal ? this.texture(pictures.normal, false) : null,
              aoMap: pictures.occlusion ? this.texture(pictures.occlusion, false) : null,
            })
      this.made.push(material)
      return material
    })
  }

  /** A picture as a texture; the frame is drawn again when it has come. */
  private texture(address: string, isColour: boolean): THREE.Texture {
    const known = this.textures.get(address)
    if (known) return known
    const texture = this.loader.load(address, () => this.draw())
    texture.flipY = false
    texture.colorSpace = isColour ? THREE.SRGBColorSpace : THREE.NoColorSpace
    texture.wrapS = texture.wrapT = THREE.RepeatWrapping
    texture.anisotropy = Math.min(4, this.gl.capabilities.getMaxAnisotropy())
    this.textures.set(address, texture)
    return texture
  }

  resize(width: number, height: number, ratio: number): void {
    if (width < 1 || height < 1) return
    this.size = { width, height }
    this.gl.setPixelRatio(ratio)
    this.gl.setSize(width, height, false)
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
    this.draw()
  }

  /** Shows all of the model, from a little above its front. */
  fit(): void {
    const box = new THREE.Box3().setFromObject(this.groups.low)
    if (box.isEmpty()) return
    box.getBoundingSphere(this.sphere)
    const { center, radius } = this.sphere
    const away = (radius * 1.15) / Math.sin(THREE.MathUtils.degToRad(this.camera.fov / 2))
    this.camera.position.set(0.55, 0.38, 1).normalize().multiplyScalar(away).add(center)
    this.camera.near = radius / 50
    this.camera.far = away + radius * 20
    this.camera.updateProjectionMatrix()
    this.orbit.target.copy(center)
    this.orbit.minDistance = radius * 0.2
    this.orbit.maxDistance = away * 5
    this.orbit.update()
    this.draw()
  }

  /** Turns the view by a share of a turn, for keys. */
  turn(around: number, up: number): void {
    const offset = this.camera.position.clone().sub(this.orbit.target)
    const spherical = new THREE.Spherical().setFromVector3(offset)
    spherical.theta += around * 2 * Math.PI
    spherical.phi = Math.min(Math.PI - 0.05, Math.max(0.05, spherical.phi + up * 2 * Math.PI))
    this.camera.position.setFromSpherical(spherical).add(this.orbit.target)
    this.orbit.update()
    this.draw()
  }

  /** The part under a point of the canvas (CSS pixels from its corner), and where on it; null beside the model. */
  pointAt(x: number, y: number): { readonly part: number; readonly point: PartPoint } | null {
    const { width, height } = this.size
    this.ray.setFromCamera(new THREE.Vector2((x / width) * 2 - 1, 1 - (y / height) * 2), this.camera)
    const [hit] = this.ray.intersectObjects(
      this.groups.low.children.filter((one) => one.visible),
      false,
    )
    if (!hit) return null
    const { order } = hit.object.userData as MeshNotes
    const { y: b, z: c } = hit.barycoord ?? new THREE.Vector3()
    const triangle = order[hit.faceIndex ?? 0] ?? 0
    return { part: this.groups.low.children.indexOf(hit.object), point: { triangle, weights: [b, c] } }
  }

  draw(): void {
    if (this.disposed) return
    if (this.frame === 0) this.frame = requestAnimationFrame(() => this.paint())
  }

  private paint(): void {
    this.frame = 0
    this.gl.render(this.scene, this.camera)
    const wanted = this.look?.pictures.length ?? 0
    const complete =
      wanted === 0 || [...this.textures.values()].every(({ image }) => image !== undefined && image !== null)
    this.onDrawn(++this.frames, complete)
  }

  dispose(): void {
    this.disposed = true
    cancelAnimationFrame(this.frame)
    this.orbit.dispose()
    this.setPartsAway()
    for (const texture of this.textures.values()) texture.dispose()
    for (const material of [...this.made, this.mark, this.clay, this.wire, this.lowWire, this.checker])
      material.dispose()
    this.checker.map?.dispose()
    this.gl.dispose()
  }

  private setPartsAway(): void {
    for (const group of Object.values(this.groups))
      group.traverse((one) => one instanceof THREE.Mesh && (one.geometry as THREE.BufferGeometry).dispose())
  }
}

/** What is kept with a mesh: the tiles of its stretches, and which triangle of the part each is. */
interface MeshNotes {
  readonly tiles: readonly number[]
  readonly order: Uint32Array
}

/** A part as a mesh; a stretch of its triangles for each tile of UVs has a material of its own. */
function meshOf({ positions, normals, uvs, tangents, indices, tiles, order }: PartGeometry): THREE.Mesh {
  const geometry = new THREE.BufferGeometry()
  geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3))
  geometry.setAttribute('normal', new THREE.BufferAttribute(normals, 3))
  if (uvs) geometry.setAttribute('uv', new THREE.BufferAttribute(uvs, 2))
  if (tangents) geometry.setAttribute('tangent', new THREE.BufferAttribute(tangents, 4))
  geometry.setIndex(new THREE.BufferAttribute(indices, 1))
  tiles.forEach(({ start, count }, i) => geometry.addGroup(start, count, i))
  const mesh = new THREE.Mesh(geometry)
  mesh.userData = { tiles: tiles.map(({ udim }) => udim), order } satisfies MeshNotes
  return mesh
}

function checkerTexture(): THREE.DataTexture {
  const bytes = new Uint8Array(CHECKS * CHECKS * 4)
  for (let y = 0; y < CHECKS; y++)
    for (let x = 0; x < CHECKS; x++) {
      const light = (x + y) % 2 === 0 ? 205 : 90
      bytes.set([light, light, light, 255], (y * CHECKS + x) * 4)
    }
  const texture = new THREE.DataTexture(bytes, CHECKS, CHECKS)
  texture.colorSpace = THREE.SRGBColorSpace
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping
  texture.needsUpdate = true
  return texture
}
