import { registry } from '#core/nodes/registry.generated'
import { exampleHash } from '#core/testing/examples'
import { browserExecutor } from '#runtime/browser/helpers'
import { throughJpeg } from '#runtime/browser/jpeg'
import { drawGlb } from './gltf-view'

/** What the tests call in the page: the core as the browser's engine runs it, in helper workers over shared memory. */
const executor = browserExecutor()
const harness = {
  isolated: crossOriginIsolated,
  threads: executor.threads,
  hash: (type: string) => exampleHash(registry.get(type)!, executor),
  /** What a JPEG makes of interleaved bytes. */
  jpeg: async (pixels: number[], width: number, height: number, channels: 1 | 3) => [
    ...(await throughJpeg(Uint8Array.from(pixels), { width, height, channels })),
  ],
  drawGlb,
}
export type Harness = typeof harness
Object.assign(window, { harness })
