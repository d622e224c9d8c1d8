import draco3d from 'draco3dgltf'
import { MeshoptDecoder } from 'meshoptimizer'
import type { GltfHost } from '#core/mesh/formats/gltf'

/** Decoders of compressed models; made once, with the first. */
let made: Promise<GltfHost['decoders']> | null = null

export const modelDecoders = (): Promise<GltfHost['decoders']> =>
  (made ??= (async () => {
    await MeshoptDecoder.ready
    return { 'draco3d.decoder': await draco3d.createDecoderModule(), 'meshopt.decoder': MeshoptDecoder }
  })())
