import { FAMILIES } from '#core/graph/families'
import { registry } from '#core/nodes/registry.generated'
import type { Options } from '../options'

/** Every node type with its ports and parameters. */
export function nodes(options: Options): number {
  const list = [...registry.values()].map((node) => ({
    type: node.type,
    version: node.version,
    family: node.family,
    title: node.title,
    summary: node.summary,
    keywords: node.keywords,
    inputs: Object.entries(node.inputs).map(([name, port]) => ({
      name,
      type: port.type,
      required: port.whenUnconnected === undefined,
      help: port.help,
    })),
    outputs: Object.entries(node.outputs).map(([name, port]) => ({ name, type: port.type, help: port.help })),
    genericTypes: node.genericTypes,
    params: Object.entries(node.params).map(
      ([name, { kind, unit, min, max, softRange, options: words, help, default: standard }]) => ({
        name,
        kind,
        unit,
        min,
        max,
        softRange,
        options: words,
        default: standard,
        help,
      }),
    ),
    presets: node.presets,
  }))
  if (options.flag('json')) {
    console.log(JSON.stringify(list, null, 2))
    return 0
  }
  for (const family of FAMILIES) {
    console.log(`\n${family}`)
    for (const node of list.filter((one) => one.family === family)) {
      console.log(`  ${node.type.padEnd(20)} ${node.summary}`)
      for (const port of node.inputs)
        console.log(`    in  ${port.name.padEnd(14)} ${port.type}${port.required ? '' : ', may stay open'}`)
      for (const port of node.outputs) console.log(`    out ${port.name.padEnd(14)} ${port.type}`)
      for (const p of node.params) {
        const range = p.options ? p.options.join(' | ') : p.min === undefined ? p.kind : `${p.kind} ${p.min} … ${p.max}`
        console.log(
          `    ${p.name.padEnd(18)} ${range}${p.unit ? ` ${p.unit}` : ''}, default ${JSON.stringify(p.default)}`,
        )
      }
    }
  }
  return 0
}
