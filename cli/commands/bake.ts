import { existsSync } from 'node:fs'
import { GristError } from '#core/errors'
import type { Packing } from '#core/maps/packing'
import { parsePacking } from '#core/maps/packing'
import type { RecordNames } from '#core/maps/record'
import { packings } from '#core/maps/packings/packings.generated'
import { FolderAssets } from '#runtime/node/assets'
import { deliverToFolder } from '#runtime/node/deliver-folder'
import { readJson } from '#runtime/node/files'
import type { Options } from '../options'
import { APPLICATION, budgetOf, isInterrupted, openDocument, progressBar, withHost } from '../workplace'

/** A delivery: the files of a packing, and the record. */
export async function bake(options: Options): Promise<number> {
  const { document, folder } = openDocument(options.words[0])
  const packing = packingNamed(options.need('packing'))
  const out = options.need('out')
  const assets = new FolderAssets(options.text('assets') ?? folder)
  const { record, report } = await withHost(options, assets, async (host) =>
    deliverToFolder(
      host,
      {
        document,
        packing,
        width: options.whole('size', 1024),
        dither: options.flag('dither'),
        sharpen: options.number('sharpen', 0, [0, 1]),
        names: namesOf(options),
        application: APPLICATION,
        assets: await assets.hashes(document),
        budgetBytes: budgetOf(options),
        isCancelled: isInterrupted,
        onProgress: progressBar(options, document.name),
      },
      out,
    ),
  )
  if (options.flag('json')) console.log(JSON.stringify({ record, report }, null, 2))
  else if (!options.flag('quiet')) {
    for (const file of record.files) console.log(`${file.name}  ${file.bytes} bytes`)
    console.log(`${record.width} × ${record.height}, fields took ${Math.ceil(report.peakBytes / 1048576)} MB at most.`)
  }
  return 0
}

/** What the name pattern may ask for beyond the material and the size. */
function namesOf(options: Options): RecordNames {
  const project = options.text('project')
  return {
    ...(project === undefined ? {} : { project }),
    ...(options.text('delivery') === undefined ? {} : { delivery: options.whole('delivery', 1) }),
  }
}

/** A shipped packing by name, or one's own from a JSON file. */
function packingNamed(name: string): Packing {
  const shipped = packings.find((one) => one.name === name)
  if (shipped) return shipped
  if (name.endsWith('.json') && existsSync(name)) return parsePacking(readJson(name))
  throw new GristError(
    'packing-invalid',
    `There is no packing "${name}". There are: ${packings.map((one) => one.name).join(', ')}; or name a JSON file.`,
  )
}
