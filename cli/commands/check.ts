import { existsSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import { channelOutput } from '#core/document/address'
import { channelsOf } from '#core/document/channels'
import type { CheckSubject } from '#core/checks/subject'
import { subjectOfFields } from '#core/checks/subject'
import type { Finding } from '#core/checks/check'
import { runChecks } from '#core/checks/check'
import { checks } from '#core/checks/rules/rules.generated'
import { FolderAssets } from '#runtime/node/assets'
import { RECORD_NAME } from '#runtime/node/delivery-folder'
import { readJson } from '#runtime/node/files'
import { judgeFolder, readDelivery } from '#runtime/node/read-delivery'
import { isModelRecord, readModelDelivery } from '#runtime/node/read-model-delivery'
import type { Options } from '../options'
import { openDocument } from '../documents'
import { isInterrupted } from '../interrupts'
import { budgetOf, progressBar, withMaterial } from '../workplace'

/** Findings on a delivery's folder, a folder of maps or a document; 1 where there is an error among them. */
export async function check(options: Options): Promise<number> {
  const path = options.words[0]
  if (!path) throw new GristError('usage', 'Which folder or document?')
  const folder = statSync(path, { throwIfNoEntry: false })?.isDirectory()
  const subjects: readonly Checked[] = folder
    ? await subjectsIn(path, options)
    : [{ subject: await evaluateAll(path, options) }]
  const found = subjects.flatMap(({ folder: set, subject }) =>
    runChecks(checks, subject).map((finding) => ({ finding: { ...(set ? { set } : {}), ...finding }, subject })),
  )
  if (options.flag('json'))
    console.log(
      JSON.stringify(
        found.map(({ finding }) => finding),
        null,
        2,
      ),
    )
  else {
    for (const { finding, subject } of found) console.log(inWords(finding, subject))
    if (found.length === 0 && !options.flag('quiet')) console.log('● Nothing found.')
  }
  return found.some(({ finding }) => finding.severity === 'error') ? 1 : 0
}

/** What is checked; of a model the folder of each of its file sets. */
interface Checked {
  readonly folder?: string
  readonly subject: CheckSubject
}

/** What a folder holds: as its record says, or else as names and texels tell. */
async function subjectsIn(folder: string, options: Options): Promise<readonly Checked[]> {
  const record = join(folder, RECORD_NAME)
  if (existsSync(record))
    return isModelRecord(readJson(record)) ? readModelDelivery(folder) : [{ subject: await readDelivery(folder) }]
  const { subjects, roles, unknown } = await judgeFolder(folder)
  if (!options.flag('quiet') && !options.flag('json')) {
    console.log(`There is no ${RECORD_NAME}; maps are judged by their names and texels:`)
    for (const { name, content } of roles) console.log(`  ${name}: ${content}`)
    if (unknown.length > 0) console.log(`  not looked at: ${unknown.join(', ')}`)
  }
  return subjects.map((subject) => ({ subject }))
}

function inWords(
  { severity, rule, set, file, channel, message, fix, marks }: Finding & { readonly set?: string },
  { width, height }: CheckSubject,
): string {
  const [first] = marks ?? []
  const texel = first && [first[0] * width, first[1] * height].map(Math.floor)
  const place = first ? ` At ${first.map((v) => v.toFixed(3)).join(', ')} (texel ${texel!.join(', ')}).` : ''
  return `${severity === 'error' ? '■ error  ' : '▲ warning'} ${rule}: ${[set, file, channel].filter(Boolean).join(', ')} ${message}${place} ${fix}`
}

async function evaluateAll(path: string, options: Options): Promise<CheckSubject> {
  const { document, folder } = await openDocument(path)
  const width = options.whole('size', 512)
  const assets = new FolderAssets(options.text('assets') ?? folder)
  return withMaterial(options, document, assets, async (material, _, layout) => {
    const { fields } = await material.evaluate({
      outputs: channelsOf(document).map(({ id }) => channelOutput(id)),
      width,
      budgetBytes: budgetOf(options),
      isCancelled: isInterrupted,
      onProgress: progressBar(options, 'check'),
    })
    return subjectOfFields(material.document, fields, layout)
  })
}
