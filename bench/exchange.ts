/**
 * Measures export to image editors and import from them, and writes bench/EXCHANGE.md: the colour of the demo's Quay setts, nine layers
 * with their masks. CPU time of this thread, medians of three; imported PNGs are decoded by sharp, beside it.
 */
import { readFileSync, writeFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { parseDocument } from '#core/document/document'
import { readOpenRaster } from '#core/exchange/open-raster'
import { exportLayers } from '#core/exchange/export-layers'
import { compareImport } from '#core/exchange/compare-import'
import { decodePng } from '#core/testing/decode-png'
import { materialHere } from '#core/testing/material-here'
import { readImage } from '#runtime/node/read-image'
import { lines, say, table } from './report'

const document = parseDocument(JSON.parse(readFileSync('demo/quay-setts.json', 'utf8')))
const images = { load: (path: string) => readImage(`demo/${path}`) }
/** Seconds of CPU time that work takes, the median of three, and what it gave. */
async function measured<T>(work: () => Promise<T>): Promise<[string, T]> {
  const taken: number[] = []
  let made!: T
  for (let i = 0; i < 3; i++) {
    const began = process.cpuUsage().user
    made = await work()
    taken.push((process.cpuUsage().user - began) / 1e6)
  }
  return [taken.sort((a, b) => a - b)[1]!.toFixed(2), made]
}

say('# Image editors')
say()
say(
  `Made by \`npm run bench:exchange\` on ${cpus()[0]!.model.trim()}, Node ${process.version}. Seconds of CPU time, medians of three.`,
)
say()
const rows: string[][] = []
for (const width of [256, 512]) {
  const evaluate = async (): Promise<unknown> =>
    materialHere(document, { images }).evaluate({ outputs: [{ kind: 'channel', channel: 'colour' }], width })
  const [alone] = await measured(evaluate)
  const [out, sent] = await measured(() =>
    exportLayers(materialHere(document, { images }), { kind: 'channel', channel: 'colour' }, width),
  )
  const [back, found] = await measured(async () =>
    compareImport(materialHere(document, { images }), readOpenRaster(sent.bytes), decodePng),
  )
  if (found.some(({ state }) => state !== 'unchanged')) throw new Error('An imported picture differs.')
  rows.push([String(width), alone, out, back, (sent.bytes.length / 1e6).toFixed(1)])
}
table(['width', 'the channel alone', 'export', 'import', 'MB'], rows)
say(`Peak memory of the process: ${Math.round(process.resourceUsage().maxRSS / 1024)} MB.`)
writeFileSync('bench/EXCHANGE.md', `${lines.join('\n').trim()}\n`)
