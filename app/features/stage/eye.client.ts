import * as THREE from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'

/** How much more than the tiles the flat view shows. */
const FLAT_MARGIN = 1.12
/** What shapes and models fill, and where that is seen from at first. */
const WHOLE = new THREE.Sphere(new THREE.Vector3(), 1.1)
const FIRST = new THREE.Vector3(0, 1.15, 4.6)
/** How near to the middle of all one may come, how far off one may go, and what is cut off before the eye. */
const NEAREST = 1.4
const FARTHEST = 12
const CUT_OFF = 0.1

/** From where the stage is seen: a flat picture straight on, shapes and models from all around. */
export class Eye {
  readonly perspective = new THREE.PerspectiveCamera(28, 1, CUT_OFF, 60)
  readonly flat = new THREE.OrthographicCamera(-1, 1, 1, -1, 0.1, 60)
  private readonly orbit: OrbitControls
  private readonly pan: OrbitControls
  private readonly size = { width: 1, height: 1 }
  /** What of a shape or model is looked at. */
  private subject = WHOLE

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly onMoved: () => void,
  ) {
    this.perspective.position.copy(FIRST)
    this.flat.position.set(0, 0, 10)
    this.orbit = this.controls(this.perspective)
    this.orbit.minDistance = NEAREST
    this.orbit.maxDistance = FARTHEST
    this.pan = this.controls(this.flat)
    this.pan.enableRotate = false
    this.pan.mouseButtons = { LEFT: THREE.MOUSE.PAN, MIDDLE: THREE.MOUSE.DOLLY, RIGHT: THREE.MOUSE.PAN }
    this.pan.touches = { ONE: THREE.TOUCH.PAN, TWO: THREE.TOUCH.DOLLY_PAN }
    this.pan.minZoom = 0.2
    this.pan.maxZoom = 64
  }

  private controls(camera: THREE.Camera): OrbitControls {
    const controls = new OrbitControls(camera as THREE.PerspectiveCamera, this.canvas)
    controls.enableDamping = false
    controls.zoomToCursor = true
    controls.addEventListener('change', this.onMoved)
    return controls
  }

  /** What the eye turns about, of shapes and models. */
  get target(): THREE.Vector3 {
    return this.orbit.target
  }

  /** Which of the two views is moved. */
  setFlat(flat: boolean): void {
    this.orbit.enabled = !flat
    this.pan.enabled = flat
  }

  resize(width: number, height: number): void {
    Object.assign(this.size, { width, height })
    this.perspective.aspect = width / height
    this.perspective.updateProjectionMatrix()
  }

  /** Looks at a part of the model from the side that the eye is on, so that it fills the view; null is all of it. */
  lookAt(part: THREE.Sphere | null): void {
    const subject = part ?? WHOLE
    if (subject.equals(this.subject)) return
    this.subject = subject
    this.from(this.perspective.position.clone().sub(this.orbit.target).setLength(FIRST.length()))
  }

  /** Puts the eye where the subject is seen as all is from `place`. */
  private from(place: THREE.Vector3): void {
    const scale = this.subject.radius / WHOLE.radius
    this.orbit.minDistance = NEAREST * scale
    this.perspective.near = CUT_OFF * scale
    this.perspective.updateProjectionMatrix()
    this.orbit.target.copy(this.subject.center)
    this.perspective.position.copy(place).multiplyScalar(scale).add(this.subject.center)
    this.orbit.update()
  }

  /** Shows all of the flat view, or all that is looked at from the front. */
  fit(): void {
    if (!this.pan.enabled) return this.from(FIRST)
    this.pan.target.set(0, 0, 0)
    this.flat.position.set(0, 0, 10)
    this.flat.zoom = 1
    this.pan.update()
  }

  /** One texel of a picture so wide a screen pixel, in the flat view of so many repeats of a tile of such an aspect. */
  oneToOne(width: number, repeat: number, aspect: number): void {
    const pixelsPerTile = this.size.height / (2 * this.halfHeight(repeat, aspect))
    this.flat.zoom = width / window.devicePixelRatio / pixelsPerTile
    this.pan.update()
  }

  /** The flat view of so many repeats of a tile of such an aspect. */
  flatFor(repeat: number, aspect: number): THREE.OrthographicCamera {
    const { width, height } = this.size
    const half = this.halfHeight(repeat, aspect)
    this.flat.top = half
    this.flat.bottom = -half
    this.flat.right = (half * width) / height
    this.flat.left = -this.flat.right
    this.flat.updateProjectionMatrix()
    return this.flat
  }

  /** Half the height of the flat view, in tile widths, at which all of it fits. */
  private halfHeight(repeat: number, aspect: number): number {
    const { width, height } = this.size
    return (FLAT_MARGIN * repeat * Math.max(aspect, height / width)) / 2
  }

  dispose(): void {
    this.orbit.dispose()
    this.pan.dispose()
  }
}
