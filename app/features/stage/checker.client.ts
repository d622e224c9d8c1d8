import * as THREE from 'three'
import { uvChannel } from './on-model'

/** Squares of a checker along a tile. */
const SQUARES = 16

/** A checker over a UV set of a model, as StageModel has them. */
export function checker(uvSet: number): THREE.DataTexture {
  const tones = [56, 200, 200, 56].flatMap((tone) => [tone, tone, tone, 255])
  const texture = new THREE.DataTexture(Uint8Array.from(tones), 2, 2)
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping
  texture.repeat.setScalar(SQUARES / 2)
  texture.channel = uvChannel(uvSet)
  texture.needsUpdate = true
  return texture
}
