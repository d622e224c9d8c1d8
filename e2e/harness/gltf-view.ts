import * as THREE from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { environmentTexture } from '../../app/features/stage/environment-texture.client'
import { ENVIRONMENT } from '../../app/features/stage/environments'

/** What the stage lights and looks at a model with; the model and its materials are the loader's. */
const STAGE = { grey: 0x777777, fieldOfView: 28, eye: [0, 1.15, 4.6], radius: 1.1, samples: 4 } as const

/** A GLB as three.js loads and draws it, in the light of the studio, at so many pixels a point: the address of a PNG. */
export async function drawGlb(base64: string, width: number, height: number, ratio: number): Promise<string> {
  const bytes = Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))
  const { scene: model } = await new GLTFLoader().parseAsync(bytes.buffer, '')
  const box = new THREE.Box3().setFromObject(model)
  const middle = box.getCenter(new THREE.Vector3())
  const radius = farthest(model, middle)
  const scale = STAGE.radius / radius
  model.scale.multiplyScalar(scale)
  model.position.sub(middle.multiplyScalar(scale))

  const scene = new THREE.Scene()
  scene.background = new THREE.Color(STAGE.grey)
  scene.environment = await environmentTexture('studio')
  const { towards, colour, strength } = ENVIRONMENT.studio.key
  const key = new THREE.DirectionalLight(new THREE.Color().setRGB(...colour), strength)
  key.position.set(...towards).multiplyScalar(6)
  scene.add(model, key)
  const camera = new THREE.PerspectiveCamera(STAGE.fieldOfView, width / height, 0.1, 60)
  camera.position.set(...STAGE.eye)
  camera.lookAt(0, 0, 0)

  const gl = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true })
  gl.toneMapping = THREE.NoToneMapping
  gl.setPixelRatio(ratio)
  gl.setSize(width, height)
  gl.render(scene, camera)
  return gl.domElement.toDataURL('image/png')
}

/** How far the vertex is that is farthest from a place. */
function farthest(model: THREE.Object3D, from: THREE.Vector3): number {
  let most = 0
  const place = new THREE.Vector3()
  model.updateWorldMatrix(true, true)
  model.traverse((one) => {
    const positions = one instanceof THREE.Mesh ? (one.geometry as THREE.BufferGeometry).getAttribute('position') : null
    for (let i = 0; positions && i < positions.count; i++)
      most = Math.max(most, place.fromBufferAttribute(positions, i).applyMatrix4(one.matrixWorld).distanceTo(from))
  })
  return most
}
