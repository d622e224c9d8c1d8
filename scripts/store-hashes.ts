/** Stores the hash of each node's example. A node of unchanged version keeps its hash unless --force is given. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { registry } from '#core/nodes/registry.generated'
import { exampleHash } from '#core/testing/examples'

const path = new URL('../core/nodes/example-hashes.json', import.meta.url)
type Stored = Record<string, { version: number; sha256: string }>
const known: Stored = existsSync(path) ? (JSON.parse(readFileSync(path, 'utf8')) as Stored) : {}
const force = process.argv.includes('--force')
const next: Stored = {}
for (const node of [...registry.values()].sort((a, b) => (a.type < b.type ? -1 : 1))) {
  const sha256 = await exampleHash(node)
  const old = known[node.type]
  if (old && old.version === node.version && old.sha256 !== sha256 && !force) {
    console.error(`${node.type}: the bits of its example changed; raise its version and add an upgrade.`)
    process.exit(1)
  }
  next[node.type] = { version: node.version, sha256 }
}
writeFileSync(path, `${JSON.stringify(next, null, 2)}\n`)
