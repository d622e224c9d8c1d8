import { renameSync } from 'node:fs'
import { basename, extname, join } from 'node:path'
import { GristError } from '#core/errors'
import { unwrap as unwrapMesh } from '#core/mesh/unwrap'
import { writeGlb } from '#core/mesh/write-glb'
import { createFile, folderOf } from '#runtime/node/files'
import { readModelFile } from '#runtime/node/read-model'
import { stagedFolder } from '#runtime/node/staged-folder'
import { uvAtlases } from '#runtime/node/uv-atlas'
import { isInterrupted } from '../interrupts'
import type { Options } from '../options'
import { progressBar } from '../workplace'
import { partsOf } from './survey'

/** A model with new UVs for one part, or for all, as GLB. */
export async function unwrap(options: Options): Promise<number> {
  const [path] = options.words
  if (!path) throw new GristError('usage', 'Which model?')
  const out = options.need('out')
  if (extname(out) !== '.glb') throw new GristError('usage', `Expected --out with .glb but received "${extname(out)}".`)
  const { mesh } = await readModelFile(path, options.number('unit', 1, [1e-6, 1e6]))
  const size = options.whole('size', 1024)
  const spacing = options.whole('spacing', 4)
  const made = await unwrapMesh(mesh, partsOf(mesh, options.text('part')), {
    size,
    spacing,
    newAtlas: await uvAtlases(),
    isCancelled: isInterrupted,
    onProgress: progressBar(options, 'unwrap'),
  })
  const staged = stagedFolder(join(folderOf(out), `.${basename(out)}`))
  try {
    const file = createFile(join(staged.path, basename(out)))
    file.output.append(await writeGlb(made))
    await file.close()
    renameSync(join(staged.path, basename(out)), out)
  } finally {
    staged.discard()
  }
  if (!options.flag('quiet'))
    console.log(
      `${made.parts.length} parts, ${made.positions.length / 3} vertices, ${spacing} texels between islands at ${size}`,
    )
  return 0
}
