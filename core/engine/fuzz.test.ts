import { EXAMPLE_PART } from '../graph/example-part'
import { GristError } from '../errors'
import type { AnyNode } from '../graph/define-node'
import { BLEND_MODES } from '../kernels/blend'
import { registry } from '../nodes/registry.generated'
import { hash32, unitFloat } from '../random'
import { documentOf, evaluateOutputs } from '../testing/examples'

/**
 * Documents put together at random: any node, any wire, parameters inside, at and beyond their ends, layers that use
 * them. Whatever comes out is a field of finite values or a typed error; nothing hangs.
 */
function randomParts(seed: number): Record<string, unknown> {
  let state = seed * 2654435761
  const random = (): number => unitFloat((state = hash32(state + 1)))
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!
  const types = [...registry.values()]
  const ids = Array.from({ length: 3 + Math.floor(random() * 12) }, (_, i) => `n${i}`)
  const kinds = ids.map(() => pick(types))
  const address = (upTo: number): string => {
    const i = Math.floor(random() * upTo)
    return `${ids[i]}.${pick(Object.keys(kinds[i]!.outputs))}`
  }
  const parameter = (node: AnyNode, name: string): unknown => {
    const { kind, min = 0, max = 1, softRange, options } = node.params[name]!
    if (random() < 0.03) return pick([NaN, null, 'x', -1e9, 1e9, [], {}])
    if (kind === 'choice') return pick(options!)
    if (kind === 'toggle') return random() < 0.5
    if (kind === 'colour') return pick(['#000000', '#ffffff', '#b4690e'])
    if (kind === 'stops')
      return Array.from({ length: Math.floor(random() * 4) }, (_, i) => ({
        at: i / 4,
        colour: pick(['#000000', '#2f6f4f']),
      }))
    if (kind === 'image') return pick(['', 'absent.png'])
    const [low, high] = random() < 0.2 ? [min, max] : (softRange ?? [min, Math.min(max, min + 4)])
    const one = (): number => {
      const v = low + random() * (high - low)
      return node.params[name]!.schema.safeParse(v).success ? v : Math.round(v)
    }
    return kind === 'pair' ? [Math.round(one()), Math.round(one())] : one()
  }
  const nodes = Object.fromEntries(
    ids.map((id, i) => {
      const node = kinds[i]!
      const params = Object.fromEntries(
        Object.keys(node.params)
          .filter(() => random() < 0.5)
          .map((name) => [name, parameter(node, name)]),
      )
      // Wires mostly lead back; one in fifty anywhere, which may close a circle.
      const inputs = Object.fromEntries(
        Object.keys(node.inputs)
          .filter(() => random() < 0.85 && i > 0)
          .map((name) => [name, random() < 0.04 ? { backdrop: 'height' } : address(random() < 0.02 ? ids.length : i)]),
      )
      return [id, { type: node.type, params, inputs, ...(random() < 0.05 ? { off: true } : {}) }]
    }),
  )
  const cell = () => ({
    source: random() < 0.7 ? { node: address(ids.length) } : { value: random() },
    blend: pick([...BLEND_MODES, 'replace', 'combine']),
    amount: random(),
  })
  const layers = Array.from({ length: 3 }, (_, i) => ({
    kind: pick(['layer', 'layer', 'correction']),
    id: `l${i}`,
    name: '',
    mask:
      random() < 0.5
        ? [{ source: { node: address(ids.length) }, mode: pick(BLEND_MODES), invert: random() < 0.5 }]
        : [],
    cells: { [pick(['colour', 'height', 'roughness', 'normal'])]: cell() },
  }))
  return {
    nodes,
    layers: random() < 0.3 ? [{ kind: 'group', id: 'g', name: '', closed: random() < 0.5, layers }] : layers,
  }
}

test('3000 random documents: finite fields or typed errors', async () => {
  const codes = new Map<string, number>()
  for (let seed = 1; seed <= 3000; seed++) {
    let outcome = 'evaluated'
    try {
      const host = {
        images: {
          'absent.png': () => {
            throw new GristError('asset-missing', 'absent')
          },
        },
      }
      const node = { example: host } as unknown as AnyNode
      const { fields } = await evaluateOutputs(
        // Every second one lies on a part.
        documentOf({ ...randomParts(seed), ...(seed % 2 ? { domain: { kind: 'part', on: EXAMPLE_PART } } : {}) }),
        ['colour', 'height', 'normal', 'occlusion'],
        8,
        { node },
      )
      for (const [name, field] of fields)
        for (const plane of field.planes)
          if (plane.some((v) => !Number.isFinite(v))) throw new Error(`document ${seed}: ${name} is not finite`)
    } catch (error) {
      if (!(error instanceof GristError)) throw new Error(`document ${seed}`, { cause: error })
      outcome = error.code
    }
    codes.set(outcome, (codes.get(outcome) ?? 0) + 1)
  }
  expect(codes.get('evaluated')).toBeGreaterThan(150)
  for (const code of ['type-mismatch', 'input-missing', 'parameter-invalid', 'cycle', 'asset-missing'])
    expect([code, codes.has(code)]).toEqual([code, true])
})
