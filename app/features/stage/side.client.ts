import * as THREE from 'three'
import type { Surface } from '#core/document/surface'
import { sameJson } from '#core/same-json'
import type { Look } from '#core/preview/looks'
import type { StageView, StrandView } from '../../session/view'
import type { LookHost } from './look-shader.client'
import { LookShader } from './look-shader.client'
import type { TexturePicture, TextureSlot } from '../../../runtime/browser/protocol'
import type { Textures } from '../../session/engine/engine-client'

/** A colour that no surface has. */
const LOUD = 0xe000ff

/** Opacity below which a hard cut-out shows nothing. */
const CUT = 0.5

/** Slots whose red, green and blue are sRGB-encoded. */
const SRGB_SLOTS = new Set<TextureSlot>(['colour', 'emission', 'diffuse', 'specular'])

/** One texel for each slot of the lit material, so that its program stays the same whatever has come: half floats are numbers. */
const NEUTRAL: Readonly<Record<Exclude<TextureSlot, 'shown' | 'overlay'>, readonly number[] | number>> = {
  colour: [255, 255, 255, 255],
  normal: [128, 128, 255, 255],
  objectNormal: [128, 128, 255, 255],
  surface: [255, 255, 0, 255],
  occlusion: [255, 255, 255, 255],
  emission: [0, 0, 0, 255],
  height: THREE.DataUtils.toHalfFloat(0.5),
  diffuse: [128, 128, 128, 255],
  specular: [56, 56, 56, 15],
  strands: [0, 0, 128, 128],
}

type Shader = Parameters<THREE.Material['onBeforeCompile']>[0]

/** Height moves vertices as far as their relief says: not where surfaces with other heights meet. */
function withRelief(material: THREE.Material, more: (shader: Shader) => void = () => {}): void {
  material.onBeforeCompile = (shader) => {
    more(shader)
    shader.vertexShader = `#ifdef USE_DISPLACEMENTMAP\nattribute float relief;\n#endif\n${shader.vertexShader.replace(
      '#include <displacementmap_vertex>',
      `#ifdef USE_DISPLACEMENTMAP
        transformed += normalize( objectNormal ) * relief * ( texture2D( displacementMap, vDisplacementMapUv ).x * displacementScale + displacementBias );
      #endif`,
    )}`
  }
}

/** One side of a split: textures, and the materials they are seen through. */
export class Side {
  readonly textures = new Map<TextureSlot, THREE.DataTexture>()
  private readonly keys = new Map<TextureSlot, string>()
  readonly lit = new THREE.MeshStandardMaterial({ color: 0xffffff, emissive: 0xffffff, alphaTest: CUT })
  /** The base colour as it is, for a surface that takes no light. */
  private readonly unlit = new THREE.MeshBasicMaterial({ alphaTest: CUT })
  private readonly look: LookShader
  private kind: Surface = { light: 'lit', opacity: 'cut-out', sides: 'one' }
  private dithered = false
  /** Plain grey with the material's normals, to judge relief by. */
  readonly grey = new THREE.MeshStandardMaterial({ color: 0xb0b0b0, roughness: 0.55, metalness: 0 })
  /** The same without any map, to judge the form by. */
  readonly bare = new THREE.MeshStandardMaterial({ color: 0xb0b0b0, roughness: 0.55, metalness: 0 })
  /** Texels as they are: no light, no conversion, so that a byte of the picture is a byte on screen. */
  readonly plain = new THREE.ShaderMaterial({
    uniforms: { picture: { value: null } },
    vertexShader:
      'varying vec2 at; void main() { at = uv; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
    fragmentShader:
      'uniform sampler2D picture; varying vec2 at; void main() { gl_FragColor = vec4(texture2D(picture, at).rgb, 1.0); }',
    toneMapped: false,
  })
  /** What is laid over light: one loud colour, as far as the overlay covers. Lambert, as it can be displaced too. */
  readonly overlay = new THREE.MeshLambertMaterial({
    color: 0x000000,
    emissive: LOUD,
    transparent: true,
    opacity: 0.85,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -1,
  })
  glows = false
  /** Whether textures are sampled as is quickest: no mipmaps are made, nothing is anisotropic. */
  private coarse = false
  /** Whether the newest normals are directions in the space of the model. */
  private inObjectSpace = false

  constructor(
    private readonly anisotropy: number,
    host: LookHost,
  ) {
    this.look = new LookShader(host)
    for (const [slot, texel] of Object.entries(NEUTRAL) as [TextureSlot, readonly number[] | number][]) {
      const data = typeof texel === 'number' ? Uint16Array.of(texel) : Uint8Array.from(texel)
      this.textures.set(slot, this.texture(slot, data, 1, 1))
    }
    for (const material of [this.grey, this.overlay]) withRelief(material)
    withRelief(this.lit, (shader) => this.look.patch(shader))
    this.lit.customProgramCacheKey = () => this.look.key
    this.assign()
  }

  /** What the material is seen through, lit or not, by its kind of surface. */
  get surface(): THREE.MeshStandardMaterial | THREE.MeshBasicMaterial {
    return this.kind.light === 'lit' ? this.lit : this.unlit
  }

  /** What it is seen through in a view: grey where that is asked for. */
  seenThrough(plain: StageView['plain']): THREE.Material {
    return plain === 'form' ? this.bare : plain === 'relief' ? this.grey : this.surface
  }

  /** Draws so far in front of what lies at the same place. */
  setLift(by: number): void {
    for (const material of [this.lit, this.unlit]) {
      material.polygonOffset = by > 0
      material.polygonOffsetFactor = material.polygonOffsetUnits = -by
    }
  }

  /** Draws as this kind of surface is drawn; what is cut out is dithered on request, in place of a hard edge. */
  setSurface(kind: Surface, dithered: boolean): void {
    if (sameJson(this.kind, kind) && this.dithered === dithered) return
    this.kind = kind
    this.dithered = dithered
    const cuts = kind.opacity === 'cut-out'
    const mixes = kind.opacity === 'blended' || kind.opacity === 'additive'
    for (const material of [this.lit, this.unlit]) {
      material.alphaHash = cuts && dithered
      material.alphaTest = cuts && !dithered ? CUT : 0
      material.transparent = mixes
      material.depthWrite = !mixes
      material.blending = kind.opacity === 'additive' ? THREE.AdditiveBlending : THREE.NormalBlending
    }
    for (const material of [this.lit, this.unlit, this.grey, this.bare, this.plain])
      material.side = kind.sides === 'two' ? THREE.DoubleSide : THREE.FrontSide
    for (const material of [this.lit, this.unlit, this.grey, this.bare, this.plain]) material.needsUpdate = true
  }

  /** Lights the surface by a workflow; while its textures are on their way, by what there is. */
  setLook(look: Look, strand: StrandView): void {
    const lacks = look === 'strands' ? this.inObjectSpace : look !== 'metal-rough' && !this.has('specular')
    const wanted = lacks ? 'metal-rough' : look
    if (this.look.set(wanted, strand)) this.lit.needsUpdate = true
  }

  /** Whether a picture has come for a slot. */
  has(slot: TextureSlot): boolean {
    return this.keys.has(slot)
  }

  /** Whether what comes from now on is sampled as is quickest; when that ends, textures get their mipmaps. */
  setCoarse(coarse: boolean): void {
    this.coarse = coarse
    if (!coarse) for (const texture of this.textures.values()) this.sample(texture)
  }

  /** Sets how a texture is sampled, where it is not so already. */
  private sample(texture: THREE.DataTexture): void {
    const halves = texture.type === THREE.HalfFloatType
    const mipped = !halves && !this.coarse
    const anisotropy = this.coarse ? 1 : this.anisotropy
    if (texture.generateMipmaps === mipped && texture.anisotropy === anisotropy) return
    texture.minFilter = mipped ? THREE.LinearMipmapLinearFilter : THREE.LinearFilter
    texture.generateMipmaps = mipped
    texture.anisotropy = anisotropy
    texture.needsUpdate = true
  }

  /** Takes new pictures in; false where nothing changed. */
  receive(pictures: Textures): boolean {
    let changed = false
    const isObject = pictures.objectNormal !== undefined
    if ((isObject || pictures.normal) && isObject !== this.inObjectSpace) {
      this.inObjectSpace = isObject
      this.assign()
      changed = true
    }
    for (const [slot, picture] of Object.entries(pictures) as [TextureSlot, TexturePicture][]) {
      if (this.keys.get(slot) === picture.key) continue
      this.keys.set(slot, picture.key)
      this.upload(slot, picture)
      changed = true
    }
    return changed
  }

  private upload(slot: TextureSlot, { width, height, pixels }: TexturePicture): void {
    const old = this.textures.get(slot)
    const data = pixels instanceof Uint16Array ? pixels : new Uint8Array(pixels.buffer)
    if (old && old.image.width === width && old.image.height === height) {
      old.image.data = data
      old.needsUpdate = true
      this.sample(old)
    } else {
      old?.dispose()
      this.textures.set(slot, this.texture(slot, data, width, height))
      this.assign()
    }
    if (slot === 'emission') this.glows = shines(data)
  }

  private texture(
    slot: TextureSlot,
    data: Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>,
    width: number,
    height: number,
  ): THREE.DataTexture {
    const halves = data instanceof Uint16Array
    const texture = new THREE.DataTexture(
      data,
      width,
      height,
      halves ? THREE.RedFormat : THREE.RGBAFormat,
      halves ? THREE.HalfFloatType : THREE.UnsignedByteType,
    )
    texture.wrapS = texture.wrapT = THREE.RepeatWrapping
    texture.colorSpace = SRGB_SLOTS.has(slot) ? THREE.SRGBColorSpace : THREE.NoColorSpace
    texture.magFilter = slot === 'shown' ? THREE.NearestFilter : THREE.LinearFilter
    texture.needsUpdate = true
    this.sample(texture)
    return texture
  }

  private assign(): void {
    const { lit, textures } = this
    const of = (slot: TextureSlot): THREE.DataTexture | null => textures.get(slot) ?? null
    lit.map = this.unlit.map = of('colour')
    lit.normalMap = this.grey.normalMap = of(this.inObjectSpace ? 'objectNormal' : 'normal')
    lit.normalMapType = this.grey.normalMapType = this.inObjectSpace
      ? THREE.ObjectSpaceNormalMap
      : THREE.TangentSpaceNormalMap
    lit.aoMap = of('occlusion')
    lit.roughnessMap = lit.metalnessMap = of('surface')
    lit.roughness = lit.metalness = 1
    lit.emissiveMap = of('emission')
    lit.needsUpdate = this.unlit.needsUpdate = this.grey.needsUpdate = true
    this.plain.uniforms.picture!.value = of('shown')
    this.overlay.alphaMap = of('overlay')
    this.look.assign(of('diffuse'), of('specular'), of('strands'))
    this.overlay.needsUpdate = true
  }

  dispose(): void {
    for (const texture of this.textures.values()) texture.dispose()
    this.lit.dispose()
    this.look.dispose()
    this.unlit.dispose()
    this.grey.dispose()
    this.bare.dispose()
    this.plain.dispose()
    this.overlay.dispose()
  }
}

/** Whether any texel has colour. */
function shines(rgba: Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>): boolean {
  const texels = new Uint32Array(rgba.buffer)
  // Alpha is the highest byte, as every machine that runs browsers keeps the lowest first.
  for (let i = 0; i < texels.length; i++) if ((texels[i]! & 0xffffff) !== 0) return true
  return false
}
