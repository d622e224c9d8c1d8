import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import { parseDocument } from '#core/graph/document'
import { parsePacking } from '#core/maps/packing'
import { parseRecord } from '#core/maps/record'
import { FolderAssets } from '#runtime/node/assets'
import { deliverToFolder } from '#runtime/node/deliver-folder'
import { folderOf, readJson } from '#runtime/node/files'
import type { Options } from '../options'
import { APPLICATION, budgetOf, isInterrupted, progressBar, withHost } from '../workplace'

/** Makes a delivery again from its record and compares every file's hash; --out keeps the new files. */
export async function remake(options: Options): Promise<number> {
  const path = options.words[0]
  if (!path) throw new GristError('usage', 'Which record.json?')
  const record = parseRecord(readJson(path))
  const document = parseDocument(record.document)
  const assets = new FolderAssets(options.text('assets') ?? folderOf(path))
  const hashes = await assets.hashes(document)
  for (const [name, expected] of Object.entries(record.assets))
    if (hashes[name] !== expected)
      throw new GristError(
        'asset-missing',
        `The image ${JSON.stringify(name)} is not the one the record was made with.`,
        { file: path },
      )
  const kept = options.text('out')
  const out = kept ?? mkdtempSync(join(tmpdir(), 'grist-remake-'))
  try {
    const { record: again } = await withHost(options, assets, (host) =>
      deliverToFolder(
        host,
        {
          document,
          packing: parsePacking(record.packing),
          width: record.width,
          dither: record.dither,
          sharpen: record.sharpen,
          names: record.names,
          application: APPLICATION,
          assets: hashes,
          budgetBytes: budgetOf(options),
          isCancelled: isInterrupted,
          onProgress: progressBar(options, 'remake'),
        },
        out,
      ),
    )
    const results = record.files.map((file) => {
      const same = again.files.find((one) => one.name === file.name)?.sha256 === file.sha256
      return { name: file.name, same }
    })
    if (options.flag('json')) console.log(JSON.stringify(results, null, 2))
    else for (const { name, same } of results) console.log(`${same ? 'same   ' : 'DIFFERS'} ${name}`)
    return results.every(({ same }) => same) ? 0 : 1
  } finally {
    if (!kept) rmSync(out, { recursive: true, force: true })
  }
}
