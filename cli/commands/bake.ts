import { channelsOf } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import type { Sharpening } from '#core/document/sharpening'
import { canSharpen, sharpening } from '#core/document/sharpening'
import { GristError } from '#core/errors'
import type { RecordNames } from '#core/texture/record'
import { checkFreeFolder } from '#runtime/node/staged-folder'
import type { Options } from '../options'
import { openDocument } from '../documents'
import { packingNamed } from '../packing-named'
import { openProjectFile } from '../project-file'

/** A delivery: the files of a packing, and the record; of a project those of all parts that have a material, with the models. */
export async function bake(options: Options): Promise<number> {
  const found = options.words[0] === undefined ? null : await openProjectFile(options.words[0])
  if (found) return (await import('./bake-project')).bakeProject(found, options)
  const { document, folder } = await openDocument(options.words[0])
  const [name, out, replace] = [options.need('packing'), options.need('out'), options.flag('replace')]
  const [width, sharpen] = [options.whole('size', 1024), sharpeningOf(options.text('sharpen'), document)]
  const packing = await packingNamed(name)
  checkFreeFolder(out, replace)
  const { FolderAssets, deliverMaterial, keptInFolder } = await import('../workplace')
  const { record, report, times, backup } = await deliverMaterial(
    options,
    {
      ...{ document, packing, width, sharpen, replace, what: document.name, names: namesOf(options) },
      assets: new FolderAssets(options.text('assets') ?? folder),
      dither: options.flag('dither'),
      kept: replace && !options.flag('anew') ? keptInFolder(out) : undefined,
    },
    out,
  )
  if (options.flag('json')) console.log(JSON.stringify({ record, report, times }, null, 2))
  else if (!options.flag('quiet')) {
    if (backup) console.log(`What was there is kept in ${backup}.`)
    record.files.forEach((file, i) => {
      const { kept, seconds } = times[i]!
      console.log(`${file.name}  ${file.bytes} bytes  ${kept ? 'as it was' : `${seconds.toFixed(1)} s`}`)
    })
    console.log(`${record.width} × ${record.height}, fields took ${Math.ceil(report.peakBytes / 1048576)} MB at most.`)
  }
  return 0
}

/** "0.5" for base colour, or "colour=0.5,roughness=0.3". Throws `usage`. */
function sharpeningOf(text: string | undefined, document: MaterialDocument): Sharpening {
  if (text === undefined) return 0
  const parts = text.split(',').map((part) => part.split('='))
  const known = channelsOf(document).filter(canSharpen)
  const read = text.includes('=')
    ? sharpening.safeParse(
        Object.fromEntries(parts.map(([id, amount]) => [id, amount?.trim() ? Number(amount) : null])),
      )
    : sharpening.safeParse(text.trim() === '' ? null : Number(text))
  const strange =
    typeof read.data === 'object' && Object.keys(read.data).find((id) => !known.some((one) => one.id === id))
  if (!read.success || typeof strange === 'string')
    throw new GristError(
      'usage',
      `Expected --sharpen as a number from 0 to 1, or CHANNEL=NUMBER,… with channels ${known.map(({ id }) => id).join(', ')}, but received ${JSON.stringify(text)}.`,
    )
  return read.data
}

/** What the name pattern may ask for beyond the material and the size. */
function namesOf(options: Options): RecordNames {
  const project = options.text('project')
  return {
    ...(project === undefined ? {} : { project }),
    ...(options.text('delivery') === undefined ? {} : { delivery: options.whole('delivery', 1) }),
  }
}
