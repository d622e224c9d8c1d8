import * as THREE from 'three'
import { EffectComposer } from 'three/addons/postprocessing/EffectComposer.js'
import { OutputPass } from 'three/addons/postprocessing/OutputPass.js'
import { RenderPass } from 'three/addons/postprocessing/RenderPass.js'
import { ShaderPass } from 'three/addons/postprocessing/ShaderPass.js'
import { UnrealBloomPass } from 'three/addons/postprocessing/UnrealBloomPass.js'
import { CopyShader } from 'three/addons/shaders/CopyShader.js'
import type { View } from '../../../runtime/browser/protocol'
import type { Textures } from '../../session/engine/engine-client'
import type { StageView } from '../../session/view'
import { checker } from './checker.client'
import { environmentTexture, isBuiltIn } from './environment-texture.client'
import { ENVIRONMENT } from './environments'
import { Eye } from './eye.client'
import type { PartGeometry } from '#runtime/browser/model.worker'
import type { LookHost } from './look-shader.client'
import type { Dress, StageMaterial, Worn } from './dresses.client'
import { Dresses } from './dresses.client'
import { Side } from './side.client'
import type { OnModel } from './on-model'
import { StageModel } from './stage-model.client'
import { StagePlaces } from './stage-places.client'
import type { Look } from '#core/preview/looks'
import { SURROUNDING, lampTowards } from './lights'
import type { Shape } from './shapes.client'
import { Shapes } from './shapes.client'
import { SIZES, tileWidth } from './surface'

/** How the newest frame was drawn: not yet, before any picture had come, as something moves, or as all rests. */
export type FrameState = 'not yet' | 'empty' | 'quickly' | 'fully'

/** The two halves of a split. */
export type StageSide = Exclude<View, 'packing' | 'versus'>

/** The neutral grey that colour is judged on, sRGB 119 of 255. */
const VIEW_GREY = 0x777777
/** Samples a pixel of a frame at rest, on a shape. */
const SAMPLES = 4
/** What is drawn again within this many milliseconds moves; then it rests. */
const REST = 160
/** Milliseconds a frame, from which on a machine is slow: what moves has half the pixels a side. */
const SLOW = 60
/** How blurred the environment stands behind a shape, 0–1. */
const BLURRED = 0.45

/** How large the body is drawn, so that all of it is seen from where the sphere is. */
const BODY = 0.85
/** How far below their middle shapes stand on the floor, and how wide their shadow is; a plane lies on none. */
const FLOOR: Partial<Record<Shape, { readonly below: number; readonly wide: number }>> = {
  sphere: { below: 1.002, wide: 1.9 },
  cube: { below: SIZES.cube / 2 + 0.002, wide: 2.7 },
  cylinder: { below: SIZES.cylinder.height / 2 + 0.002, wide: 2.5 },
  body: { below: 0.802 * BODY, wide: 2.6 * BODY },
}
/** How much of a lit part its mesh data hide. */
const DATA_OPACITY = 0.8
/** Texels along a side of the shadow, and how dark it is in its middle. */
const SHADOW = { texels: 64, strength: 0.55 }

/** Which light a view has: by name, or "sha256:…" of a picture; one's own without a picture is the studio. */
const environmentOf = ({ environment, picture }: StageView): string =>
  environment !== 'own' ? environment : picture || 'studio'

/** Whether height moves the surface of what is shown. */
const isDisplaced = ({ mode, shape, displaced }: StageView): boolean =>
  mode === 'model' && (displaced === 'every shape' || (displaced === 'plane' && shape === 'plane'))

/** A soft dark spot where a shape stands; seen from above only. */
function contactShadow(): THREE.Mesh<THREE.PlaneGeometry, THREE.MeshBasicMaterial> {
  const { texels, strength } = SHADOW
  const bytes = new Uint8Array(texels * texels * 4)
  for (let y = 0; y < texels; y++)
    for (let x = 0; x < texels; x++) {
      const away = Math.hypot(x + 0.5 - texels / 2, y + 0.5 - texels / 2) / (texels / 2)
      const dark = Math.max(0, 1 - away)
      bytes.fill(Math.round(255 * strength * dark * dark), (y * texels + x) * 4, (y * texels + x) * 4 + 4)
    }
  const alphaMap = new THREE.DataTexture(bytes, texels, texels)
  alphaMap.magFilter = THREE.LinearFilter
  alphaMap.needsUpdate = true
  const material = new THREE.MeshBasicMaterial({ color: 0x000000, alphaMap, transparent: true, depthWrite: false })
  return new THREE.Mesh(new THREE.PlaneGeometry(1, 1), material)
}

/**
 * Draws the stage: lit shapes, single channels unlit, flat and repeated, whole or split in two states. Draws only when
 * something changed. Takes data in, knows nothing of documents or workers.
 */
export class StageRenderer {
  private readonly gl: THREE.WebGLRenderer
  private readonly scene = new THREE.Scene()
  private readonly key = new THREE.DirectionalLight()
  private readonly eye: Eye
  private readonly sides: Record<StageSide, Side>
  private readonly mesh = new THREE.Mesh<THREE.BufferGeometry, THREE.Material>()
  private readonly over = new THREE.Mesh<THREE.BufferGeometry, THREE.Material>()
  private readonly shadow = contactShadow()
  private readonly shapes = new Shapes()
  /** The model in place of a shape: the part that is worked on, and the others. */
  private model: StageModel | null = null
  /** What the other places wear. */
  private readonly dresses = new Dresses(() => new Side(this.anisotropy, this.lookHost))
  /** What lies over the part that is worked on: mesh data, or a checker. */
  private readonly data = new THREE.MeshBasicMaterial({
    transparent: true,
    opacity: DATA_OPACITY,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -1,
  })
  private readonly environments = new Map<string, THREE.Texture>()
  /** The grey that stands around light, and around texels as they are. */
  private readonly background = {
    lit: new THREE.Color(VIEW_GREY),
    plain: new THREE.Color(VIEW_GREY).convertLinearToSRGB(),
  }
  private readonly composer: EffectComposer
  private readonly renderPass: RenderPass
  private readonly bloom = new UnrealBloomPass(new THREE.Vector2(256, 256), 0.55, 0.6, 1)
  /** The last pass, of light and of texels as they are. */
  private readonly lastPass = { lit: new OutputPass(), plain: new ShaderPass(CopyShader) }
  /** Which places are where on the canvas. */
  readonly places = new StagePlaces(() => ({
    ...{ size: this.size, view: this.view, split: this.split, right: this.right, mesh: this.mesh },
    ...{ metres: this.materials.shown?.metres ?? [1, 1], model: this.onModel },
    ...{ perspective: this.eye.perspective, flat: this.eye.flat, target: this.eye.target },
  }))
  private readonly lookHost: LookHost = {
    onLoaded: () => this.draw(),
    onProblem: (problem) => this.onNoPicture(problem),
  }
  private readonly anisotropy: number
  private view: StageView | null = null
  private split: number | null = null
  private materials: Record<StageSide, StageMaterial | null> = { shown: null, comparison: null }
  /** What files are lit by. */
  private readonly looks: Record<StageSide, Look | null> = { shown: null, comparison: null }
  private frame = 0
  private size = { width: 1, height: 1 }
  private ratio = 1
  /** Which document the right half, or all of the stage, shows. */
  private right: 'shown' | 'versus' = 'shown'
  /** Whether pictures are on their way, and when a frame was last asked for or done. */
  private waits = false
  private overlays = false
  private active = -Infinity
  private rest: ReturnType<typeof setTimeout> | undefined
  /** Milliseconds that frames take, running means. */
  private readonly pace = { quickly: 0, fully: 0 }

  constructor(
    readonly canvas: HTMLCanvasElement,
    /** Called after each frame, with how many have been drawn, and how this one was. */
    private readonly onDrawn: (frames: number, drawn: FrameState) => void,
    /** Called where a picture that the stage takes of the library cannot be read. */
    private readonly onNoPicture: (problem: string) => void,
  ) {
    this.gl = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: 'high-performance' })
    this.gl.toneMapping = THREE.NoToneMapping
    this.gl.setClearColor(VIEW_GREY, 1)
    const anisotropy = Math.min(4, this.gl.capabilities.getMaxAnisotropy())
    this.anisotropy = anisotropy
    this.sides = { shown: new Side(anisotropy, this.lookHost), comparison: new Side(anisotropy, this.lookHost) }
    this.scene.background = this.background.lit
    this.over.renderOrder = 1
    this.mesh.add(this.over)
    this.shadow.rotation.x = -Math.PI / 2
    this.scene.add(this.shadow)
    this.scene.add(this.mesh, this.key, this.key.target)
    this.eye = new Eye(canvas, () => this.draw())
    const target = new THREE.WebGLRenderTarget(1, 1, { type: THREE.HalfFloatType, samples: SAMPLES })
    this.composer = new EffectComposer(this.gl, target)
    this.renderPass = new RenderPass(this.scene, this.eye.perspective)
    for (const pass of [this.renderPass, this.bloom, this.lastPass.lit, this.lastPass.plain])
      this.composer.addPass(pass)
  }

  /** While newer pictures are on their way less is drawn: a coarser mesh, no mipmaps, nothing anisotropic. */
  setWaiting(waits: boolean): void {
    if (this.waits === waits) return
    this.waits = waits
    for (const side of Object.values(this.sides)) side.setCoarse(waits)
    if (!waits) this.schedule(false)
  }

  /** `look` is that of files; null is the one that is chosen. */
  setTextures(side: StageSide, textures: Textures, material: StageMaterial | null, look: Look | null = null): void {
    const changed = this.sides[side].receive(textures)
    if (!changed && this.materials[side] === material && this.looks[side] === look) return
    this.looks[side] = look
    this.materials[side] = material
    this.draw()
  }

  /** Tells which document is right of the seam: places of it are asked about there. */
  setRight(view: 'shown' | 'versus'): void {
    this.right = view
  }

  /** Lays the overlay over what is lit, or takes it away. */
  setOverlay(shows: boolean): void {
    if (this.overlays === shows) return
    this.overlays = shows
    this.draw()
  }

  /** The parts of a model with the places on it, and the one that the material lies on; null takes the model away. */
  setModel(
    model: {
      readonly parts: readonly PartGeometry[]
      readonly places: readonly OnModel[]
      readonly worked: OnModel
    } | null,
  ): void {
    this.model?.dispose()
    this.model = model && new StageModel(model.parts, model.places, model.worked)
    if (this.model) this.scene.add(this.model.others, this.model.over)
    this.look()
    this.draw()
  }

  /** What another place of the model wears. */
  setDress(dress: Dress): void {
    this.dresses.set(dress)
    this.dressesChanged()
  }

  /** Leaves a place of the model plain. */
  undress(at: OnModel): void {
    this.dresses.remove(at)
    this.dressesChanged()
  }

  private dressesChanged(): void {
    this.canvas.dataset.dressed = String(this.dresses.count)
    this.draw()
  }

  /** Lays a picture of mesh data, or a checker in a UV set (from 0), over the part that is worked on; null takes it away. */
  setOver(shown: { readonly address: string } | { readonly uvSet: number } | null): void {
    this.data.map?.dispose()
    this.data.map = !shown
      ? null
      : 'uvSet' in shown
        ? checker(shown.uvSet)
        : new THREE.TextureLoader().load(shown.address, () => this.draw())
    if (this.data.map) this.data.map.colorSpace = THREE.SRGBColorSpace
    this.data.needsUpdate = true
    this.draw()
  }

  /** `split` is where the halves meet, 0–1; null shows one state. */
  setView(view: StageView, split: number | null): void {
    const before = this.view
    this.view = view
    this.split = split
    this.eye.setFlat(view.mode === 'flat')
    this.look()
    if (!before || environmentOf(before) !== environmentOf(view)) void this.setEnvironment(view)
    if (before?.mode === 'flat' && view.mode === 'flat' && before.repeat !== view.repeat) this.eye.fit()
    this.draw()
  }

  resize(width: number, height: number, ratio: number): void {
    if (width < 1 || height < 1) return
    this.size = { width, height }
    this.ratio = ratio
    this.gl.setPixelRatio(ratio)
    this.gl.setSize(width, height, false)
    this.composer.setPixelRatio(ratio)
    this.composer.setSize(width, height)
    this.eye.resize(width, height)
    this.draw()
  }

  /** Shows all of the flat view, or of what is looked at from the front. */
  fit(): void {
    this.eye.fit()
    this.draw()
  }

  /** One texel of the picture a screen pixel, in the flat view. */
  oneToOne(width: number): void {
    const [across, down] = this.materials.shown?.metres ?? [1, 1]
    this.eye.oneToOne(width, this.view?.repeat ?? 1, down / across)
  }

  /** Looks at the part that is worked on where that is all that is shown. */
  private look(): void {
    this.eye.lookAt(this.view?.isolated ? (this.onModel?.bounds ?? null) : null)
  }

  /** The model, where it is shown. */
  private get onModel(): StageModel | null {
    return this.view?.mode === 'part' ? this.model : null
  }

  /** Calls back after each frame until the function it gives is called. */
  afterFrames(work: () => void): () => void {
    this.watchers.add(work)
    return () => this.watchers.delete(work)
  }

  /** Draws with the next frame; many calls are one. What moves is drawn quickly, and once more as soon as it rests. */
  draw(): void {
    const now = performance.now()
    // A machine that draws slowly shows every change quickly at first.
    const moves = this.waits || now - this.active < REST || this.pace.fully > SLOW
    this.active = now
    clearTimeout(this.rest)
    if (moves && !this.waits) this.rest = setTimeout(() => this.schedule(false), REST)
    this.schedule(moves)
  }

  private schedule(moves: boolean): void {
    this.moves = moves
    this.onDrawn(this.frames, 'not yet')
    if (this.frame === 0) this.frame = requestAnimationFrame(() => this.paint())
  }

  dispose(): void {
    this.disposed = true
    cancelAnimationFrame(this.frame)
    clearTimeout(this.rest)
    this.eye.dispose()
    for (const side of Object.values(this.sides)) side.dispose()
    this.shapes.dispose()
    this.model?.dispose()
    this.dresses.dispose()
    this.data.map?.dispose()
    this.data.dispose()
    for (const texture of this.environments.values()) texture.dispose()
    for (const pass of [this.bloom, this.lastPass.lit, this.lastPass.plain]) pass.dispose()
    this.shadow.geometry.dispose()
    this.shadow.material.alphaMap?.dispose()
    this.shadow.material.dispose()
    this.composer.dispose()
    this.gl.dispose()
  }

  private frames = 0
  private warm = false
  private disposed = false
  /** Whether the next frame is one of something that moves. */
  private moves = false
  private readonly watchers = new Set<() => void>()

  private paint(): void {
    this.frame = 0
    const { view, gl } = this
    if (!view) return
    const { width, height } = this.size
    const began = performance.now()
    const ratio = this.moves && this.pace.quickly > SLOW ? this.ratio / 2 : this.ratio
    if (gl.getPixelRatio() !== ratio) gl.setPixelRatio(ratio)
    if (this.split === null) this.paintSide('shown', 0, width)
    else {
      const seam = Math.round(this.split * width)
      this.paintSide('comparison', 0, seam)
      this.paintSide('shown', seam, width)
    }
    gl.setScissorTest(false)
    gl.setViewport(0, 0, width, height)
    const empty = !this.isReady('shown', view)
    this.onDrawn(++this.frames, empty ? 'empty' : this.moves ? 'quickly' : 'fully')
    // The next frame comes when this one has been taken: at once, or after all its pixels where no graphics card is.
    const how = this.moves ? 'quickly' : 'fully'
    requestAnimationFrame(() => {
      this.active = performance.now()
      this.pace[how] += (this.active - began - this.pace[how]) / 4
    })
    for (const work of this.watchers) work()
  }

  private paintSide(which: StageSide, from: number, to: number): void {
    const { gl } = this
    const view = this.view!
    const side = this.sides[which]
    const material = this.materials[which] ?? this.materials.shown
    gl.setScissor(from, 0, Math.max(0, to - from), this.size.height)
    gl.setScissorTest(true)
    if (!material || !this.isReady(which, view)) {
      gl.clear()
      if (which === 'shown') this.warmUp()
      return
    }
    const exposure = 2 ** view.exposure
    const { around, shining } = SURROUNDING[view.surroundings]
    const camera = this.arrange(view, material)
    this.scene.environmentIntensity = exposure * around * (view.lamp.on ? view.lamp.left : 1)
    this.scene.environmentRotation.y = view.turn * 2 * Math.PI
    this.light(view, exposure * around)
    const unlit = view.shown !== null
    side.setSurface(material.surface, view.dithered)
    side.setLook(this.looks[which] ?? view.look, view.strand)
    this.mesh.material = unlit ? side.plain : side.seenThrough(view.plain)
    const masked = this.overlays && which === 'shown' && side.has('overlay')
    const data = view.mode === 'part' && this.data.map !== null
    this.over.visible = !unlit && (masked || data)
    this.over.geometry = this.mesh.geometry
    this.over.material = masked ? side.overlay : this.data
    if (!unlit) for (const one of [side.lit, side.grey, side.overlay]) this.displace(one, side, view, material)
    side.lit.emissiveIntensity = material.emissionStrength * exposure * shining
    const dressed = this.dressOthers(view, exposure * shining)
    const glows = [{ side, material }, ...dressed].some(
      (one) => one.side.glows && one.material.emissionStrength * shining > 1 && one.material.surface.light === 'lit',
    )
    this.bloom.enabled = !unlit && view.plain === 'no' && glows
    const composed = this.bloom.enabled || (!this.moves && view.mode !== 'flat')
    // What goes straight to the canvas is converted on the way; what is copied there is not.
    const blurred = !unlit && view.mode !== 'flat' && view.background === 'blurred'
    this.scene.background = blurred
      ? this.scene.environment
      : unlit && composed
        ? this.background.plain
        : this.background.lit
    this.scene.backgroundBlurriness = BLURRED
    this.scene.backgroundIntensity = this.scene.environmentIntensity
    this.scene.backgroundRotation.copy(this.scene.environmentRotation)
    if (composed) {
      this.lastPass.lit.enabled = !unlit
      this.lastPass.plain.enabled = unlit
      this.renderPass.camera = camera
      // Passes before the last draw into targets of their own, which the scissor does not touch.
      this.composer.render()
    } else gl.render(this.scene, camera)
  }

  /** The other parts, lit as the one that is worked on; plain where its texels alone are looked at. Those that are seen so. */
  private dressOthers(view: StageView, shining: number): readonly Worn[] {
    const model = this.onModel
    if (!model) return []
    const dressed = this.dresses.seenIn(view, shining)
    model.wear(dressed.map(({ at, side }) => ({ at, material: side.seenThrough(view.plain) })))
    return dressed
  }

  /** Whether there is something to draw, and light to see it in. */
  private isReady(which: StageSide, { shown }: StageView): boolean {
    return shown === null
      ? this.scene.environment !== null && this.sides[which].has('colour')
      : this.sides[which].has('shown')
  }

  /** One pixel of light, so that programs are made while the first pictures are. */
  private warmUp(): void {
    if (this.warm) return
    this.warm = true
    const { gl } = this
    this.mesh.geometry = this.shapes.get('sphere', 1, 1, 'plain')
    this.over.visible = this.shadow.visible = false
    this.mesh.material = this.sides.shown.lit
    gl.setScissor(0, 0, 1, 1)
    gl.render(this.scene, this.eye.perspective)
    gl.clear()
  }

  /** The right shape before the right camera. */
  private arrange(view: StageView, { metres }: StageMaterial): THREE.PerspectiveCamera | THREE.OrthographicCamera {
    const aspect = metres[1] / metres[0]
    const model = view.mode === 'part' ? this.model : null
    if (this.model) {
      this.model.others.visible = model !== null && !view.isolated
      this.model.over.visible = model !== null
    }
    if (model) {
      this.mesh.geometry = model.geometry
      this.mesh.scale.setScalar(1)
      this.mesh.rotation.x = 0
      this.shadow.visible = false
      return this.eye.perspective
    }
    const shape: Shape = view.mode === 'flat' ? 'flat' : view.shape
    const fineness = isDisplaced(view) ? (this.moves ? 'coarse' : 'fine') : 'plain'
    this.mesh.geometry = this.shapes.get(shape, view.repeat, aspect, fineness)
    this.mesh.scale.setScalar(shape === 'body' ? BODY : 1)
    const floor = FLOOR[shape]
    this.shadow.visible = floor !== undefined && view.shown === null
    if (floor) {
      this.shadow.position.y = -floor.below
      this.shadow.scale.setScalar(floor.wide)
    }
    if (shape !== 'flat') {
      this.mesh.rotation.x = shape === 'plane' ? -Math.PI / 2 : 0
      return this.eye.perspective
    }
    this.mesh.rotation.x = 0
    return this.eye.flatFor(view.repeat, aspect)
  }

  private light(view: StageView, exposure: number): void {
    this.key.visible = view.shown === null
    if (view.lamp.on) {
      this.key.position.set(...lampTowards(view.lamp, view.mode === 'flat')).multiplyScalar(6)
      this.key.color.setRGB(1, 1, 1)
      this.key.intensity = view.lamp.strength * exposure
      return
    }
    const name = environmentOf(view)
    // A picture brings all of its light.
    if (!isBuiltIn(name)) {
      this.key.intensity = 0
      return
    }
    const { towards, colour, strength } = ENVIRONMENT[name].key
    const turn = view.turn * 2 * Math.PI
    const [x, y, z] = towards
    this.key.position
      .set(x * Math.cos(turn) + z * Math.sin(turn), y, z * Math.cos(turn) - x * Math.sin(turn))
      .multiplyScalar(6)
    this.key.color.setRGB(...colour)
    this.key.intensity = strength * exposure
  }

  /** Height moves vertices along their normals, by what it is beside the width of a tile on the shape. */
  private displace(
    lit: THREE.MeshStandardMaterial | THREE.MeshLambertMaterial,
    side: Side,
    view: StageView,
    { metres, heightMetres }: StageMaterial,
  ): void {
    const wanted = isDisplaced(view) ? (side.textures.get('height') ?? null) : null
    if ((lit.displacementMap === null) !== (wanted === null)) lit.needsUpdate = true
    lit.displacementMap = wanted
    lit.displacementScale = (tileWidth(view.shape) * heightMetres) / (metres[0] * view.repeat)
    lit.displacementBias = -lit.displacementScale / 2
  }

  /** The environment before stays until this one has been made. */
  private async setEnvironment(view: StageView): Promise<void> {
    const name = environmentOf(view)
    let texture: THREE.Texture
    try {
      texture = this.environments.get(name) ?? (await environmentTexture(name))
    } catch (error) {
      if (!this.disposed) this.onNoPicture(error instanceof Error ? error.message : String(error))
      return
    }
    if (this.disposed) return texture.dispose()
    this.environments.set(name, texture)
    if (!this.view || environmentOf(this.view) !== name) return
    this.scene.environment = texture
    this.draw()
  }
}
