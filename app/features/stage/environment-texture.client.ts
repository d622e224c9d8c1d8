import { wrap } from 'comlink'
import * as THREE from 'three'
import type { EnvironmentCalls } from './environment.worker'
import { ENVIRONMENT } from './environments'

const environments = wrap<EnvironmentCalls>(
  new Worker(new URL('./environment.worker.ts', import.meta.url), { type: 'module' }),
)

/** An environment as three.js looks it up: a cube whose levels are of growing roughness. */
export async function environmentTexture(name: string): Promise<THREE.CubeTexture> {
  const levels = isBuiltIn(name) ? environments.levelsOf(name) : environments.levelsOfPicture(name)
  const [texture, ...mipmaps] = (await levels).map(
    ({ edge, faces }) =>
      new THREE.CubeTexture(
        faces.map((half) => new THREE.DataTexture(half, edge, edge, THREE.RGBAFormat, THREE.HalfFloatType)),
      ),
  )
  return Object.assign(texture!, {
    mipmaps,
    type: THREE.HalfFloatType,
    colorSpace: THREE.LinearSRGBColorSpace,
    minFilter: THREE.LinearMipmapLinearFilter,
    generateMipmaps: false,
    isPMREMTexture: true,
    needsUpdate: true,
  })
}

/** Whether an environment is one of ours; others are pictures. */
export const isBuiltIn = (name: string): name is keyof typeof ENVIRONMENT => Object.hasOwn(ENVIRONMENT, name)
