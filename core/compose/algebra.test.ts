import { hash32, unitFloat } from '../random'
import { documentOf, evaluateOutputs } from '../testing/examples'

/**
 * The layer algebra worked out a second time, one number a channel, in float64: W3C Compositing and Blending Level 1,
 * section 5.1 (premultiplied form) for closed groups, a plain mix elsewhere. Masks and sources are constants.
 */
type Mode = keyof typeof BLEND
const BLEND = {
  normal: (_: number, s: number) => s,
  multiply: (b: number, s: number) => b * s,
  screen: (b: number, s: number) => b + s - b * s,
  darken: (b: number, s: number) => Math.min(b, s),
  difference: (b: number, s: number) => Math.abs(b - s),
  exclusion: (b: number, s: number) => b + s - 2 * b * s,
}
interface Entry {
  source: { value: number }
  mode: Mode
  amount: number
  invert: boolean
  joined?: boolean
}
interface Plain {
  kind: 'layer' | 'correction'
  id: string
  name: string
  amount: number
  mask: Entry[]
  cells: Record<string, { source: { value: number } | { node: string }; blend: Mode; amount: number }>
  off?: boolean
}
interface Group {
  kind: 'group'
  id: string
  name: string
  closed: boolean
  amount: number
  mask: Entry[]
  layers: Layer[]
  off?: boolean
}
type Layer = Plain | Group
/** A value with its coverage; null where everything is covered. */
type State = { value: number; coverage: number | null }

const clamp = (v: number) => Math.max(0, Math.min(1, v))
const mix = (a: number, b: number, w: number) => a + (b - a) * w

function maskOf(entries: Entry[]): number {
  const value = ({ source, invert }: Entry) => (invert ? 1 - source.value : source.value)
  const over = (m: number, { mode, amount }: Entry, e: number) => mix(m, BLEND[mode](m, e), amount)
  // Groups first: pairs of the entry whose mode counts and what its group comes to.
  const groups: [Entry, number][] = []
  entries.forEach((entry, i) => {
    const group = i > 0 && entry.joined ? groups.at(-1)! : null
    if (group) group[1] = over(group[1], entry, value(entry))
    else groups.push([entry, value(entry)])
  })
  return clamp(groups.reduce((m, [entry, e]) => over(m, entry, e), 1))
}

function over(layer: Layer, below: State): State {
  if (layer.off) return below
  const weight = maskOf(layer.mask)
  if (layer.kind === 'group') {
    if (layer.closed) {
      if (!writes(layer)) return below
      const inside = layer.layers.reduce<State>((state, one) => over(one, state), { value: BELOW, coverage: 0 })
      return laid(below, inside.value, 'normal', inside.coverage! * weight * layer.amount)
    }
    const inside = layer.layers.reduce<State>((state, one) => over(one, state), below)
    const w = weight * layer.amount
    if (below.coverage === null) return { value: mix(below.value, inside.value, w), coverage: null }
    const coverage = mix(below.coverage, inside.coverage!, w)
    const light = mix(below.coverage * below.value, inside.coverage! * inside.value, w)
    return { value: coverage ? light / coverage : below.value, coverage }
  }
  const cell = layer.cells[CHANNEL]
  if (!cell) return below
  const w = weight * layer.amount * cell.amount
  if (layer.kind === 'correction') return { value: mix(below.value, 1 - below.value, w), coverage: below.coverage }
  return laid(below, (cell.source as { value: number }).value, cell.blend, w)
}

/** Co·αo = (1 − αb)·αs·Cs + αb·αs·B(Cb, Cs) + (1 − αs)·αb·Cb, αo = αs + αb(1 − αs). */
function laid({ value, coverage }: State, source: number, mode: Mode, alpha: number): State {
  if (coverage === null) return { value: mix(value, BLEND[mode](value, source), alpha), coverage: null }
  const union = alpha + coverage * (1 - alpha)
  const light =
    (1 - coverage) * alpha * source + coverage * alpha * BLEND[mode](value, source) + (1 - alpha) * coverage * value
  return { value: union ? light / union : value, coverage: union }
}
const writes = (layer: Layer): boolean =>
  !layer.off && (layer.kind === 'group' ? layer.layers.some(writes) : layer.kind === 'layer' && CHANNEL in layer.cells)

const CHANNEL = 'roughness'
const BELOW = 0.5
const DEPTH = 3

/** A random sheet; corrections invert what lies below through a node of their own. */
function sheet(seed: number): { layers: Layer[]; nodes: Record<string, unknown> } {
  let state = seed * 7919
  const random = () => unitFloat((state = hash32(state + 1)))
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!
  const round = (v: number) => Math.round(v * 20) / 20
  const nodes: Record<string, unknown> = {}
  let ids = 0
  const entry = (): Entry => ({
    source: { value: round(random()) },
    mode: pick(MODES),
    amount: round(random()),
    invert: random() < 0.3,
    joined: random() < 0.4,
  })
  const layers = (depth: number): Layer[] =>
    Array.from({ length: 1 + Math.floor(random() * 3) }, (): Layer => {
      const id = `l${ids++}`
      const shared = {
        id,
        name: id,
        amount: random() < 0.5 ? 1 : round(random()),
        mask: random() < 0.5 ? [] : Array.from({ length: 1 + Math.floor(random() * 4) }, entry),
        ...(random() < 0.1 ? { off: true } : {}),
      }
      const kind = random()
      if (depth < DEPTH && kind < 0.35)
        return { kind: 'group', ...shared, closed: random() < 0.5, layers: layers(depth + 1) }
      if (kind < 0.45) {
        nodes[`n${id}`] = { type: 'invert', inputs: { source: { backdrop: CHANNEL } } }
        return {
          kind: 'correction',
          ...shared,
          cells: { [CHANNEL]: { source: { node: `n${id}.result` }, blend: 'normal', amount: round(random()) } },
        }
      }
      return {
        kind: 'layer',
        ...shared,
        cells:
          random() < 0.85
            ? {
                [CHANNEL]: {
                  source: { value: round(random()) },
                  blend: pick(MODES),
                  amount: random() < 0.4 ? 1 : round(random()),
                },
              }
            : {},
      }
    })
  return { layers: layers(0), nodes }
}
const MODES = Object.keys(BLEND) as Mode[]

test('400 random sheets of layers, groups, masks and corrections give what the recommendation gives', async () => {
  let groups = 0
  for (let seed = 1; seed <= 400; seed++) {
    const { layers, nodes } = sheet(seed)
    if (layers.some((layer) => layer.kind === 'group')) groups++
    const { fields } = await evaluateOutputs(documentOf({ layers, nodes }), [CHANNEL], 1)
    const expected = layers.reduce<State>((state, layer) => over(layer, state), { value: BELOW, coverage: null }).value
    const ours = fields.get(CHANNEL)!.planes[0]![0]!
    if (!(Math.abs(ours - expected) < 1e-5))
      throw new Error(`sheet ${seed}: ${ours} for ${expected}\n${JSON.stringify(layers, null, 1)}`)
  }
  expect(groups).toBeGreaterThan(100)
})
