import * as THREE from 'three'
import type { RasterImage } from '#core/field/pyramid'
import type { Look } from '#core/preview/looks'
import { fetchImage } from '../../../runtime/browser/fetch-raster'
import type { StrandView } from '../../session/view'

type Shader = Parameters<THREE.Material['onBeforeCompile']>[0]

/** What a look puts into three.js's shader of standard materials: what it declares, and what it does at two places. */
interface Patch {
  readonly declares: string
  /** After what the surface is made of is known. */
  readonly surface: string
  /** After all light has met it. */
  readonly light?: string
}

const textured = (...names: string[]): string => names.map((name) => `uniform sampler2D ${name};`).join('\n')

/** A surface that only scatters `colour`. */
const matt = (colour: string): string => `
  material.diffuseColor = material.diffuseContribution = ${colour};
  material.metalness = 0.0;
  material.specularColor = material.specularColorBlended = vec3( 0.0 );
  material.specularF90 = 0.0;`

/** For every lamp: its direction `l`, its colour `c`, the half vector `h` and the cosine `nl`. */
const eachLamp = (work: string): string => `
#if NUM_DIR_LIGHTS > 0
  for ( int i = 0; i < NUM_DIR_LIGHTS; i ++ ) {
    vec3 l = directionalLights[ i ].direction;
    vec3 c = directionalLights[ i ].color;
    vec3 h = normalize( l + geometryViewDir );
    float nl = saturate( dot( normal, l ) );
    ${work}
  }
#endif`

const PATCHES: Readonly<Record<Exclude<Look, 'metal-rough'>, Patch>> = {
  // KHR_materials_pbrSpecularGlossiness: both colours as they are told; what the interface reflects is not left to scatter.
  'specular-gloss': {
    declares: textured('lookDiffuse', 'lookSpecular'),
    surface: `
  material.diffuseColor = material.diffuseContribution = texture2D( lookDiffuse, vMapUv ).rgb;
  material.metalness = 0.0;
  material.specularColor = material.specularColorBlended = texture2D( lookSpecular, vMapUv ).rgb;
  material.specularF90 = 1.0;`,
  },
  // Lambert, and the highlights of Blinn 1977 with the strength in 255ths as their exponent; the environment lights evenly.
  older: {
    declares: textured('lookDiffuse', 'lookSpecular'),
    surface: matt('texture2D( lookDiffuse, vMapUv ).rgb'),
    light: `vec4 tint = texture2D( lookSpecular, vMapUv );
  ${eachLamp('reflectedLight.directSpecular += c * tint.rgb * nl * pow( saturate( dot( normal, h ) ), max( 1.0, tint.a * 255.0 ) );')}`,
  },
  // Tones mixed by masks; the highlight of Kajiya and Kay 1989 along the strands.
  strands: {
    declares: `${textured('lookStrands', 'strandNormal')}
uniform vec3 strandDark, strandLight, strandRoot, strandTip;
uniform vec4 strandReach;
uniform vec2 strandTiled;
float reached( float mask, float reach ) { return reach <= 0.0 ? 0.0 : saturate( 1.0 - ( 1.0 - mask ) / reach ); }`,
    surface: `
  vec4 strands = texture2D( lookStrands, vMapUv );
  vec3 tone = mix( strandDark, strandLight, strands.b );
  tone = mix( tone, strandRoot, reached( strands.r, strandReach.x ) );
  tone = mix( tone, strandTip, reached( strands.g, strandReach.y ) );
  if ( strandTiled.y > 0.0 ) {
    vec3 tiled = texture2D( strandNormal, vMapUv * strandTiled.x ).xyz * 2.0 - 1.0;
    normal = normalize( normal + ( tbn[ 0 ] * tiled.x + tbn[ 1 ] * tiled.y ) * strandTiled.y );
  }
  ${matt('tone')}`,
    light: `
  float lean = ( strands.a - 0.5 ) * PI;
  vec3 along = normalize( tbn[ 1 ] * cos( lean ) + tbn[ 0 ] * sin( lean ) );
  ${eachLamp(`float th = dot( along, h );
    reflectedLight.directSpecular += c * strandReach.z * nl * pow( sqrt( saturate( 1.0 - th * th ) ), strandReach.w );`)}`,
  },
}

/** Who is told that a picture has come, or in words why it cannot. */
export interface LookHost {
  onLoaded(): void
  onProblem(problem: string): void
}

/** A picture as bytes, bottom row first. */
function upward({ width, height, channels, values }: RasterImage) {
  const data = new Uint8Array(width * height * 4).fill(255)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (y * width + x) * channels
      const to = ((height - 1 - y) * width + x) * 4
      for (let c = 0; c < 3; c++)
        data[to + c] = Math.round(255 * Math.min(1, Math.max(0, values[from + Math.min(c, channels - 1)]!)))
    }
  return { width, height, data }
}

/** The look of one side of the stage: what its shader is given, and with which program. */
export class LookShader {
  private look: Look = 'metal-rough'
  private readonly uniforms = {
    lookDiffuse: { value: null as THREE.Texture | null },
    lookSpecular: { value: null as THREE.Texture | null },
    lookStrands: { value: null as THREE.Texture | null },
    strandNormal: { value: null as THREE.Texture | null },
    strandDark: { value: new THREE.Color() },
    strandLight: { value: new THREE.Color() },
    strandRoot: { value: new THREE.Color() },
    strandTip: { value: new THREE.Color() },
    /** Reach of roots and of tips, brightness and tightness of the highlight. */
    strandReach: { value: new THREE.Vector4() },
    /** How often the second normal lies on the card, and how strong it is. */
    strandTiled: { value: new THREE.Vector2() },
  }
  private normal: { readonly image: string; readonly texture: THREE.DataTexture; isThere: boolean } | null = null

  constructor(private readonly host: LookHost) {}

  /** Programs differ by it. */
  get key(): string {
    return this.look
  }

  /** Whether another program is needed. */
  set(look: Look, strand: StrandView): boolean {
    const { uniforms } = this
    uniforms.strandDark.value.set(strand.dark)
    uniforms.strandLight.value.set(strand.light)
    uniforms.strandRoot.value.set(strand.root)
    uniforms.strandTip.value.set(strand.tip)
    uniforms.strandReach.value.set(strand.rootReach, strand.tipReach, strand.shine, strand.tightness)
    if (look === 'strands') this.load(strand.normal)
    uniforms.strandTiled.value.set(strand.tiles, this.normal?.isThere ? strand.depth : 0)
    const changed = look !== this.look
    this.look = look
    return changed
  }

  assign(diffuse: THREE.Texture | null, specular: THREE.Texture | null, strands: THREE.Texture | null): void {
    this.uniforms.lookDiffuse.value = diffuse
    this.uniforms.lookSpecular.value = specular
    this.uniforms.lookStrands.value = strands
  }

  patch(shader: Shader): void {
    if (this.look === 'metal-rough') return
    const { declares, surface, light = '' } = PATCHES[this.look]
    Object.assign(shader.uniforms, this.uniforms)
    const after = (text: string, chunk: string, more: string): string =>
      text.replace(`#include <${chunk}>`, `#include <${chunk}>\n${more}`)
    shader.fragmentShader = after(
      after(
        after(shader.fragmentShader, 'clipping_planes_pars_fragment', declares),
        'lights_physical_fragment',
        surface,
      ),
      'lights_fragment_end',
      light,
    )
  }

  dispose(): void {
    this.normal?.texture.dispose()
  }

  /** The second normal of strands, from the library; none while it loads. */
  private load(image: string): void {
    if ((this.normal?.image ?? '') === image) return
    this.normal?.texture.dispose()
    this.normal = null
    if (image === '') return
    const texture = new THREE.DataTexture(null, 0, 0)
    texture.wrapS = texture.wrapT = THREE.RepeatWrapping
    texture.magFilter = THREE.LinearFilter
    texture.minFilter = THREE.LinearMipmapLinearFilter
    texture.generateMipmaps = true
    const loading = { image, texture, isThere: false }
    this.normal = loading
    this.uniforms.strandNormal.value = texture
    fetchImage(image).then(
      (raster) => {
        if (this.normal !== loading) return
        texture.image = upward(raster)
        texture.needsUpdate = true
        loading.isThere = true
        this.host.onLoaded()
      },
      (error: unknown) => this.host.onProblem(`■ ${error instanceof Error ? error.message : String(error)}`),
    )
  }
}
