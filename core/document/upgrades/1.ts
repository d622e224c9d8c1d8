import { parsePort } from '../address'

type Json = Record<string, unknown>

/** What became of a node type: its name, and those of its parameters, inputs and outputs. */
interface Renamed {
  readonly type?: string
  readonly params?: Readonly<Record<string, string>>
  readonly inputs?: Readonly<Record<string, string>>
  readonly outputs?: Readonly<Record<string, string>>
}

const NODES: Readonly<Record<string, Renamed>> = {
  push: { type: 'warp' },
  place: { type: 'transform' },
  cutoff: { type: 'threshold' },
  'near-colour': { type: 'colour-mask' },
  span: { type: 'compress-range' },
  smear: { type: 'directional-blur' },
  bond: {
    params: { moved: 'positionJitter', turned: 'rotationJitter', shrunk: 'sizeJitter', uneven: 'heightJitter' },
  },
  'auto-range': { params: { lowShare: 'lowRatio', highShare: 'highRatio' } },
  stripes: { params: { counts: 'frequency', share: 'coverage' }, outputs: { run: 'phase' } },
}
/** A smear along slopes is a warp in small steps. */
const SLOPES: Renamed = { type: 'warp', params: { length: 'strength' }, inputs: { lengthBy: 'strengthBy' } }

/**
 * From version 1 to 2: node types, parameters and ports go by the words of the field, and what lies below is the backdrop.
 * Nothing is checked here: what is no member of a document is left as it is, for the schema to refuse.
 */
export function upgradeFrom1(document: Json): Json {
  const nodes = record(document.nodes)
  const became = new Map(Object.entries(nodes).map(([id, node]) => [id, renamedOf(record(node))]))
  const address = (text: string): string => {
    const { node, port } = parsePort(text)
    const to = became.get(node)?.outputs?.[port]
    return to ? `${node}.${to}` : text
  }
  const source = (given: unknown): unknown => {
    if (typeof given === 'string') return address(given)
    if (!isRecord(given)) return given
    if (typeof given.node === 'string') return { ...given, node: address(given.node) }
    const { below, ...rest } = given
    return below === undefined ? given : { ...rest, backdrop: below }
  }
  const withSource = (given: unknown): unknown =>
    isRecord(given) && 'source' in given ? { ...given, source: source(given.source) } : given
  const layer = (given: unknown): unknown => {
    if (!isRecord(given)) return given
    const next: Json = { ...given }
    if (Array.isArray(given.mask)) next.mask = given.mask.map(withSource)
    if (isRecord(given.cells)) next.cells = mapped(given.cells, withSource)
    if (Array.isArray(given.layers)) next.layers = given.layers.map(layer)
    return next
  }
  const next: Json = { ...document }
  if (isRecord(document.nodes)) next.nodes = mapped(nodes, (node, id) => upgradedNode(node, became.get(id)!, source))
  if (Array.isArray(document.layers)) next.layers = document.layers.map(layer)
  if (isRecord(document.taps))
    next.taps = mapped(document.taps, (tap) =>
      isRecord(tap) && typeof tap.node === 'string' ? { ...tap, node: address(tap.node) } : tap,
    )
  if (isRecord(document.channels)) next.channels = mapped(document.channels, (channel) => renameKeys(channel, BELOW))
  if (Array.isArray(document.dials)) next.dials = document.dials.map((dial) => upgradedDial(dial, became))
  return next
}

const BELOW = { below: 'backdrop' }

const isRecord = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value)
const record = (value: unknown): Json => (isRecord(value) ? value : {})
const mapped = (from: Json, change: (value: unknown, key: string) => unknown): Json =>
  Object.fromEntries(Object.entries(from).map(([key, value]) => [key, change(value, key)]))

const alongSlopes = (node: Json): boolean => node.type === 'smear' && record(node.params).along === 'slope'

const renamedOf = (node: Json): Renamed => (alongSlopes(node) ? SLOPES : (NODES[String(node.type)] ?? {}))

function renameKeys(value: unknown, names: Readonly<Record<string, string>> = {}): unknown {
  if (!isRecord(value)) return value
  return Object.fromEntries(Object.entries(value).map(([key, member]) => [names[key] ?? key, member]))
}

function upgradedNode(node: unknown, became: Renamed, source: (given: unknown) => unknown): unknown {
  if (!isRecord(node)) return node
  const next: Json = { ...node, type: became.type ?? node.type }
  if ('params' in node) next.params = renameKeys(node.params, became.params)
  if (isRecord(node.inputs)) next.inputs = mapped(renameKeys(node.inputs, became.inputs) as Json, source)
  if (node.type !== 'smear') return next
  const params = { ...record(next.params) }
  if (alongSlopes(node)) {
    // What it left to its defaults is said, as a warp has others.
    next.params = { strength: 0.05, ...without(params, ['angle', 'from']), along: 'slope', steps: 'small' }
    next.inputs = without(record(next.inputs), ['angleBy'])
  } else {
    next.params = without(params, ['along'])
    if (isRecord(next.inputs)) next.inputs = without(next.inputs, ['driver'])
  }
  return next
}

const without = (from: Json, keys: readonly string[]): Json =>
  Object.fromEntries(Object.entries(from).filter(([key]) => !keys.includes(key)))

function upgradedDial(dial: unknown, became: ReadonlyMap<string, Renamed>): unknown {
  if (!isRecord(dial) || !Array.isArray(dial.drives)) return dial
  const drives = dial.drives.map((drive: unknown) => {
    if (!isRecord(drive) || typeof drive.node !== 'string' || typeof drive.field !== 'string') return drive
    const [name = '', ...rest] = drive.field.split('.')
    const to = became.get(drive.node)?.params?.[name]
    return to ? { ...drive, field: [to, ...rest].join('.') } : drive
  })
  return { ...dial, drives }
}
