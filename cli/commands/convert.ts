import type { Workflow } from '#core/document/document-of-set'
import { GristError } from '#core/errors'
import { inForm } from '#core/texture/edit-packing'
import { depthOf, writtenFormat } from '#core/texture/format-registry'
import { packingForChannels } from '#core/texture/packing-for-channels'
import { checkFreeFolder } from '#runtime/node/staged-folder'
import { packingNamed } from '../packing-named'
import type { Options } from '../options'
import { chosenWorkflow, setMaterial } from '../set-material'
import { FolderAssets, deliverMaterial } from '../workplace'

/** What a set becomes where no packing is named. */
const USUAL_PACKING: Readonly<Record<Workflow, string>> = {
  'metal-rough': 'occlusion-rough-metal-y-up',
  'spec-gloss': 'specular-gloss',
}

/** The form that all files are to have; the first bits of its format where none are told. Throws packing-invalid. */
function formOf(options: Options): Parameters<typeof inForm>[1] {
  const format = writtenFormat(options.need('format'))
  const depth = depthOf(format, options.whole('bits', format.write.depths[0]!.bits))
  if (!depth) throw new GristError('packing-invalid', `${format.title} has no ${options.text('bits')}-bit form.`)
  return { format: format.name, bits: depth.bits }
}

/** An existing set of maps, read by names and contents, in another workflow and packing. */
export async function convert(options: Options): Promise<number> {
  const folder = options.words[0]
  if (!folder) throw new GristError('usage', 'Which folder of maps?')
  const out = options.need('out')
  const to = chosenWorkflow(options, 'to') ?? 'metal-rough'
  checkFreeFolder(out, options.flag('replace'))
  const named = await packingNamed(options.text('packing') ?? USUAL_PACKING[to])
  const whole = options.text('format') === undefined ? named : inForm(named, formOf(options))
  const { document, width, channels } = await setMaterial(folder, options)
  const packing = packingForChannels(whole, channels)
  const { names } = await deliverMaterial(
    options,
    {
      ...{ document, packing, what: 'convert', alone: true, assets: new FolderAssets(folder) },
      width: options.text('size') === undefined ? width : options.whole('size', width),
      dither: options.flag('dither'),
      replace: options.flag('replace'),
    },
    out,
  )
  if (!options.flag('quiet')) console.log(`${names.length} files in ${out}`)
  return 0
}
