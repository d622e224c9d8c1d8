import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import { parseDocument } from '#core/document/document'
import { parsePacking } from '#core/texture/packing'
import { folderOf, readJson } from '#runtime/node/files'
import { checkFreeFolder } from '#runtime/node/staged-folder'
import type { Options } from '../options'
import { isInterrupted } from '../interrupts'

/** Makes a delivery again from its record and compares what every file holds; --out keeps the new files. */
export async function remake(options: Options): Promise<number> {
  const path = options.words[0]
  if (!path) throw new GristError('usage', 'Which record.json?')
  const json = readJson(path)
  const stored = options.text('out')
  if (stored !== undefined) checkFreeFolder(stored, options.flag('replace'))
  const { isSameFile, parseRecord } = await import('#core/texture/record')
  const record = parseRecord(json)
  const { APPLICATION, FolderAssets, budgetOf, deliverToFolder, progressBar, withMaterial } =
    await import('../workplace')
  const document = parseDocument(record.document)
  const assets = new FolderAssets(options.text('assets') ?? folderOf(path), record.assets)
  const hashes = await assets.hashes(document)
  const out = stored ?? mkdtempSync(join(tmpdir(), 'grist-remake-'))
  try {
    const { record: again } = await withMaterial(options, document, assets, async (material, coders) =>
      deliverToFolder(
        material,
        {
          packing: parsePacking(record.packing),
          width: record.width,
          dither: record.dither,
          sharpen: record.sharpen,
          names: record.names,
          application: APPLICATION,
          assets: hashes,
          budgetBytes: budgetOf(options),
          isCancelled: isInterrupted,
          coders,
          onProgress: progressBar(options, 'remake'),
        },
        out,
        { images: stored === undefined ? [] : await assets.sources(document), replace: options.flag('replace') },
      ),
    )
    const results = record.files.map((file) => {
      const same = isSameFile(
        file,
        again.files.find((one) => one.name === file.name),
      )
      return { name: file.name, same }
    })
    if (options.flag('json')) console.log(JSON.stringify(results, null, 2))
    else for (const { name, same } of results) console.log(`${same ? 'same   ' : 'DIFFERS'} ${name}`)
    return results.every(({ same }) => same) ? 0 : 1
  } finally {
    if (!stored) rmSync(out, { recursive: true, force: true })
  }
}
