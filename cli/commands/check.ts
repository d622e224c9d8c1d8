import { statSync } from 'node:fs'
import { GristError } from '#core/errors'
import { evaluateFields } from '#core/engine/evaluate'
import { tileSize } from '#core/field/field'
import { registry } from '#core/nodes/registry.generated'
import { channelsOf, expandDocument } from '#core/layers/expand'
import type { CheckSubject } from '#core/maps/check'
import { runChecks } from '#core/maps/check'
import { checks } from '#core/maps/checks/checks.generated'
import { FolderAssets } from '#runtime/node/assets'
import { readDelivery } from '#runtime/node/read-delivery'
import type { Options } from '../options'
import { budgetOf, isInterrupted, openDocument, progressBar, withHost } from '../workplace'

/** Findings on a delivery's folder or on a document; 1 where there is an error among them. */
export async function check(options: Options): Promise<number> {
  const path = options.words[0]
  if (!path) throw new GristError('usage', 'Which folder or document?')
  const folder = statSync(path, { throwIfNoEntry: false })?.isDirectory()
  const subject = folder ? await readDelivery(path) : await evaluateAll(path, options)
  const findings = runChecks(checks, subject)
  if (options.flag('json')) console.log(JSON.stringify(findings, null, 2))
  else {
    for (const one of findings)
      console.log(
        `${one.severity === 'error' ? '■ error  ' : '▲ warning'} ${one.rule}: ${[one.file, one.channel].filter(Boolean).join(', ')} ${one.message} ${one.mend}`,
      )
    if (findings.length === 0 && !options.flag('quiet')) console.log('● Nothing found.')
  }
  return findings.some(({ severity }) => severity === 'error') ? 1 : 0
}

async function evaluateAll(path: string, options: Options): Promise<CheckSubject> {
  const { document, folder } = openDocument(path)
  const channels = channelsOf(document)
  const outputs = channels.map(({ id }) => id)
  const width = options.whole('size', 512)
  const { seed, heightMetres, domain } = document
  const graph = expandDocument(document, registry, outputs)
  const { fields } = await withHost(options, new FolderAssets(options.text('assets') ?? folder), (host) =>
    evaluateFields(host, {
      graph,
      outputs,
      width,
      domain: { seed, metres: domain.metres, heightMetres },
      budgetBytes: budgetOf(options),
      isCancelled: isInterrupted,
      onProgress: progressBar(options, 'check'),
    }),
  )
  return {
    ...tileSize(width, domain.metres),
    channels: channels.map((channel) => ({ channel, field: fields.get(channel.id)!, steps: 0 })),
    files: [],
    emissionStrength: document.emissionStrength,
  }
}
