import { expose, transfer } from 'comlink'
import { GristError } from '#core/errors'
import type { TaskFailure } from '../task-outcome'
import { failureOf } from '../task-outcome'
import { fetchFile, fetchMesh } from './fetch-raster'
import { throughJpeg } from './jpeg'
import type { PackResult, PackTask } from './packer'
import { Packer } from './packer'
import { openPauses } from './pause'

const packer = new Packer({ fetchFile, fetchMesh, throughJpeg, pause: openPauses() })

/** The packer as its coordinator reaches it: pictures are handed over, not copied. */
const calls = {
  pack: async (task: PackTask): Promise<{ packed: PackResult } | TaskFailure> => {
    try {
      const packed = await packer.pack(task)
      // Pictures of files are kept, those of the stage are not.
      const pictures = packed.kind === 'delivered' ? Object.values(packed.textures) : []
      return transfer(
        { packed },
        pictures.map(({ pixels }) => pixels.buffer),
      )
    } catch (error) {
      if (error instanceof GristError) return failureOf(error)
      throw error
    }
  },
  cancel: (id: number): void => packer.cancel(id),
}
export type PackerCalls = typeof calls

expose(calls)
