import { basename, resolve } from 'node:path'
import { GristError } from '#core/errors'
import type { Workflow } from '#core/document/document-of-set'
import type { SetSlot } from '#core/document/document-of-set'
import { WORKFLOWS, documentOfSet } from '#core/document/document-of-set'
import { judgeFolder } from '#runtime/node/read-delivery'
import { checkFreeFolder } from '#runtime/node/staged-folder'
import { isInterrupted } from '../interrupts'
import { packingNamed } from '../packing-named'
import type { Options } from '../options'
import { APPLICATION, FolderAssets, budgetOf, deliverToFolder, progressBar, withMaterial } from '../workplace'

/** What a set becomes where no packing is named. */
const USUAL_PACKING: Readonly<Record<Workflow, string>> = {
  'metal-rough': 'occlusion-rough-metal-y-up',
  'spec-gloss': 'specular-gloss',
}

/** An existing set of maps, read by names and contents, in another workflow and packing. */
export async function convert(options: Options): Promise<number> {
  const folder = options.words[0]
  if (!folder) throw new GristError('usage', 'Which folder of maps?')
  const out = options.need('out')
  const to = workflowOf(options, 'to') ?? 'metal-rough'
  checkFreeFolder(out, options.flag('replace'))
  const packing = await packingNamed(options.text('packing') ?? USUAL_PACKING[to])
  const { subjects, roles, unknown } = await judgeFolder(folder)
  const [largest, ...smaller] = subjects
  const { width, height, files } = largest!
  const hasSpecular = files.some(({ record }) => record.slots.some(({ channel }) => channel === 'specular'))
  const from = workflowOf(options, 'from') ?? (hasSpecular ? 'spec-gloss' : 'metal-rough')
  const document = documentOfSet(
    files.map(({ record: { name, transfer, slots } }) => {
      const hasAlpha = roles.find((one) => one.name === name)?.channels === 4
      return { image: name, transfer, slots: turned(withOpacity(slots, hasAlpha), options) }
    }),
    { name: options.text('name') ?? basename(resolve(folder)), metres: [1, height / width], workflow: from },
  )
  if (!options.flag('quiet')) {
    for (const { name, content } of roles) console.log(`${name}: ${content}`)
    if (unknown.length > 0) console.log(`not looked at: ${unknown.join(', ')}`)
    for (const one of smaller)
      console.log(`left out, of another size: ${one.files.map(({ record }) => record.name).join(', ')}`)
  }
  const assets = new FolderAssets(folder)
  const hashes = await assets.hashes(document)
  const size = options.text('size') === undefined ? width : options.whole('size', width)
  const { names } = await withMaterial(options, document, assets, async (material, coders) =>
    deliverToFolder(
      material,
      {
        ...{ packing, width: size, dither: options.flag('dither'), application: APPLICATION, assets: hashes, coders },
        budgetBytes: budgetOf(options),
        isCancelled: isInterrupted,
        onProgress: progressBar(options, 'convert'),
      },
      out,
      { images: await assets.sources(document), replace: options.flag('replace') },
    ),
  )
  if (!options.flag('quiet')) console.log(`${names.length} files in ${out}`)
  return 0
}

/** The alpha of a colour file is opacity. */
const withOpacity = (slots: readonly SetSlot[], hasAlpha: boolean): readonly SetSlot[] =>
  hasAlpha && slots.length === 3 && slots[0]!.channel === 'colour'
    ? [...slots, { channel: 'opacity', component: 0, inverted: false }]
    : slots

function workflowOf(options: Options, option: 'from' | 'to'): Workflow | undefined {
  const text = options.text(option)
  if (text === undefined) return undefined
  const found = WORKFLOWS.find((one) => one === text)
  if (!found) throw new GristError('usage', `Expected --${option} as ${WORKFLOWS.join(' or ')} but received "${text}".`)
  return found
}

/** Slots with green of normals inverted where the set has Y down. */
function turned(slots: readonly SetSlot[], options: Options): SetSlot[] {
  const y = options.text('normal-y') ?? 'up'
  if (y !== 'up' && y !== 'down') throw new GristError('usage', `Expected --normal-y up or down but received "${y}".`)
  return slots.map((slot) =>
    slot.channel === 'normal' && slot.component === 1 ? { ...slot, inverted: (y === 'down') !== slot.inverted } : slot,
  )
}
