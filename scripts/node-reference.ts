import { titleOf, typeTitle } from '#core/graph/titles'
/** Writes docs/nodes from the node files: a page for each shelf, a picture for each node. `--check` only compares. */
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { format, resolveConfig } from 'prettier'
import { displayBytes } from '#core/preview/display'
import { startPng } from '#core/texture/formats/png'
import { memoryWriter } from '#core/texture/bytes/byte-writer'
import type { AnyNode } from '#core/graph/define-node'
import { FAMILIES } from '#core/graph/families'
import type { Parameter } from '#core/graph/parameters'
import { registry } from '#core/nodes/registry.generated'
import { evaluateExample } from '#core/testing/examples'

const folder = join(import.meta.dirname, '../docs/nodes')
const check = process.argv.includes('--check')
const PICTURE = 128
const SHELVES: Record<(typeof FAMILIES)[number], string> = {
  make: 'Make',
  shape: 'Shape and pattern',
  tone: 'Tone',
  combine: 'Combine',
  move: 'Move',
  filter: 'Filter',
  surface: 'Surface',
  mesh: 'Mesh (materials on parts)',
  channel: 'Channel',
  conversion: 'Conversion (put in by the application)',
}

/** The first output of a node's example, as it looks on a swatch. */
async function pictureOf(node: AnyNode): Promise<Uint8Array> {
  const fields = await evaluateExample(node, PICTURE)
  const { width, height, pixels: bytes } = displayBytes(fields.values().next().value!)
  const writer = memoryWriter()
  const png = startPng({ width: PICTURE, height: PICTURE, channels: 3, bits: 8, srgb: true }, writer)
  for (let y = 0; y < PICTURE; y++) {
    const row = new Uint8Array(PICTURE * 3)
    // A uniform field gives one texel for all.
    for (let x = 0; x < PICTURE; x++) {
      const i = ((y % height) * width + (x % width)) * 4
      row.set(bytes.subarray(i, i + 3), x * 3)
    }
    png.rows(row)
  }
  png.end()
  return writer.bytes()
}

const cellOf = (text: string): string => text.replaceAll('|', '\\|')
const UNITS: Record<string, string> = { tile: 'tile widths', turn: 'turns', metre: 'm', cells: 'cells' }

function rangeOf({ kind, min, max, unit, options }: Parameter): string {
  if (options) return options.join(', ')
  if (kind === 'toggle') return 'yes or no'
  if (kind === 'colour') return 'a colour as #rrggbb'
  if (kind === 'stops') return '1 to 64 stops'
  if (kind === 'curve') return '2 to 32 points'
  if (kind === 'image') return 'an image'
  return `${min} to ${max}${unit ? `, ${UNITS[unit]}` : ''}${kind === 'pair' ? ', across and down' : ''}`
}

const shown = (value: unknown): string => (typeof value === 'object' ? `\`${JSON.stringify(value)}\`` : String(value))

function entryOf(node: AnyNode): string {
  const lines = [`## ${node.title}`, '', `![${node.title}: its example](pictures/${node.type}.png)`, '']
  lines.push(`\`${node.type}\` — ${node.summary}`, '')
  const ports = (list: AnyNode['inputs'], of: (name: string) => string): void => {
    for (const [name, port] of Object.entries(list))
      lines.push(
        `| ${of(titleOf(name, port))} | ${port.type === 'any' ? (node.genericTypes ?? []).join(' or ') : typeTitle(port.type)} | ${cellOf(port.help)} |`,
      )
  }
  lines.push('| port | carries | |', '| --- | --- | --- |')
  ports(node.inputs, (name) => `in: ${name}`)
  ports(node.outputs, (name) => `out: ${name}`)
  const params = Object.entries(node.params)
  if (params.length > 0) {
    lines.push('', '| setting | range | default | |', '| --- | --- | --- | --- |')
    for (const [name, parameter] of params)
      lines.push(
        `| ${titleOf(name, parameter)} (\`${name}\`) | ${cellOf(rangeOf(parameter))} | ${cellOf(shown(parameter.default))} | ${cellOf(parameter.help)} |`,
      )
  }
  if (node.presets?.length) lines.push('', `Starting points: ${node.presets.map(({ title }) => title).join(', ')}.`)
  if (node.tiles === false) lines.push('', 'Its result need not continue across the border of the tile.')
  return lines.join('\n')
}

const files = new Map<string, Uint8Array | string>()
const contents = [
  '# Nodes',
  '',
  'Made from the code by `npm run generate:nodes`. Lengths are shares of the tile’s width.',
  '',
]
for (const family of FAMILIES) {
  const nodes = [...registry.values()].filter((node) => node.family === family)
  contents.push(`- [${SHELVES[family]}](${family}.md): ${nodes.map(({ title }) => title.toLowerCase()).join(', ')}`)
  files.set(`${family}.md`, [`# ${SHELVES[family]}`, '', ...nodes.map(entryOf)].join('\n\n') + '\n')
  for (const node of nodes) files.set(`pictures/${node.type}.png`, await pictureOf(node))
}
files.set('README.md', contents.join('\n') + '\n')

let stale = 0
const complain = (name: string, what: string): void => {
  stale++
  console.error(`docs/nodes/${name} ${what}. Run "npm run generate:nodes".`)
}
mkdirSync(join(folder, 'pictures'), { recursive: true })
for (const [name, made] of files) {
  const path = join(folder, name)
  const bytes =
    typeof made === 'string'
      ? Buffer.from(await format(made, { ...(await resolveConfig(path)), filepath: path }))
      : Buffer.from(made)
  if (existsSync(path) && readFileSync(path).equals(bytes)) continue
  if (check) complain(name, 'is not what the nodes make')
  else writeFileSync(path, bytes)
}
for (const name of readdirSync(folder, { recursive: true, encoding: 'utf8' })) {
  const known = name.replaceAll('\\', '/')
  if (files.has(known) || known === 'pictures') continue
  if (check) complain(known, 'belongs to no node')
  else rmSync(join(folder, known))
}
process.exit(stale ? 1 : 0)
