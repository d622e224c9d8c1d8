import { execFileSync } from 'node:child_process'
import { sheet } from '../testing/sheet'
import { deliveryRecordOf } from '../testing/delivery-record'
import { connectionList } from './connection-list'
import { materialX } from './material-x'
import { packings } from './packings/packings.generated'

const slab = { ...sheet(), name: 'Slab & "Co"', heightMetres: 0.045, emissionStrength: 4 }
const packingNamed = (name: string) => packings.find((one) => one.name === name)!

interface Node {
  readonly tag: string
  readonly attributes: Readonly<Record<string, string>>
  readonly children: readonly Node[]
}

/** By Python's XML reader, which knows nothing of what wrote it. */
function parsed(xml: string): Node {
  const code = `
import sys, json, xml.etree.ElementTree as t
def plain(e): return {'tag': e.tag, 'attributes': e.attrib, 'children': [plain(c) for c in e]}
print(json.dumps(plain(t.fromstring(sys.stdin.buffer.read()))))`
  return JSON.parse(execFileSync('python3', ['-c', code], { input: xml }).toString()) as Node
}

/** Types that nodes take, as the specification has them: in to out. */
const named = (node: Node, name: string) => node.children.find((child) => child.attributes.name === name)

describe.each(packings.map(({ name }) => name))('%s', (name) => {
  const record = deliveryRecordOf(packingNamed(name), slab)
  const xml = materialX(record, slab)

  test('every link leads to a node of the type that is asked for, and every image to a file', () => {
    if (xml === null) {
      expect(record.packing.frames !== undefined || record.files.some(({ block }) => block) || !holds('colour')).toBe(
        true,
      )
      return
    }
    const root = parsed(xml)
    expect([root.tag, root.attributes]).toEqual(['materialx', { version: '1.38', colorspace: 'lin_rec709' }])
    const graph = named(root, 'maps')!
    const files = new Set(record.files.map((file) => file.name))
    const links: Node[] = []
    const gather = (node: Node): void => {
      if (node.attributes.nodename ?? node.attributes.nodegraph) links.push(node)
      node.children.forEach(gather)
    }
    gather(root)
    expect(links.length).toBeGreaterThan(3)
    for (const { attributes } of links) {
      const target = attributes.nodegraph
        ? graph.children.find(({ tag, attributes: own }) => tag === 'output' && own.name === attributes.output)
        : (graph.children.find(({ tag, attributes: own }) => tag !== 'output' && own.name === attributes.nodename) ??
          named(root, attributes.nodename!))
      expect([attributes, target?.attributes.type]).toEqual([attributes, attributes.type])
    }
    const names = graph.children.filter(({ tag }) => tag !== 'output').map(({ attributes }) => attributes.name)
    expect(new Set(names).size).toBe(names.length)
    for (const image of graph.children.filter(({ tag }) => tag === 'image'))
      expect(files.has(named(image, 'file')!.attributes.value!)).toBe(true)
    expect(root.children.at(-1)!.attributes.name).toMatch(/^[A-Za-z_][A-Za-z0-9_]*$/)
  })

  const holds = (channel: string) =>
    record.files.some(({ slots }) => slots.some((slot) => slot.channel === channel && slot.component === 0))
})

/** What a node of the graph comes to for values of the files' slots: the nodes' definitions by hand. */
function valueOf(graph: Node, name: string, texels: Record<string, readonly number[]>): readonly number[] {
  const node = graph.children.find(({ tag, attributes }) => tag !== 'output' && attributes.name === name)!
  const input = (port: string): readonly number[] => {
    const { attributes } = named(node, port)!
    return attributes.nodename ? valueOf(graph, attributes.nodename, texels) : [Number(attributes.value)]
  }
  const both = (with_: (a: number, b: number) => number): number[] => {
    const [a, b] = [input('in1'), input('in2')]
    return Array.from({ length: Math.max(a.length, b.length) }, (_, i) => with_(a[i] ?? a[0]!, b[i] ?? b[0]!))
  }
  switch (node.tag) {
    case 'image':
      return texels[named(node, 'file')!.attributes.value!]!
    case 'extract':
      return [input('in')[input('index')[0]!]!]
    case 'combine3':
      return ['in1', 'in2', 'in3'].map((port) => input(port)[0]!)
    case 'convert':
      return input('in').slice(0, 3)
    case 'subtract':
      return both((a, b) => a - b)
    case 'multiply':
      return both((a, b) => a * b)
    case 'add':
      return both((a, b) => a + b)
    case 'normalmap':
      return input('in').map((v) => v * 2 - 1)
    default:
      throw new Error(node.tag)
  }
}

test('what comes out of the graph is what went into the files: packed, inverted, Y down, metres', () => {
  const read = (packing: string, texels: (name: string, slots: number) => readonly number[]) => {
    const record = deliveryRecordOf(packingNamed(packing), slab)
    const root = parsed(materialX(record, slab)!)
    const graph = named(root, 'maps')!
    const values = Object.fromEntries(record.files.map(({ name, map, slots }) => [name, texels(map, slots.length)]))
    return (output: string) => {
      const { attributes } = graph.children.find(({ tag, attributes: own }) => tag === 'output' && own.name === output)!
      return valueOf(graph, attributes.nodename!, values)
    }
  }
  const packed = read('occlusion-rough-metal-y-down', (name, slots) =>
    name === 'normal' ? [0.75, 0.25, 1] : [0.1, 0.2, 0.3, 0.4].slice(0, slots),
  )
  expect([packed('occlusion'), packed('roughness'), packed('metallic')]).toEqual([[0.1], [0.2], [0.3]])
  expect(packed('colour')).toEqual([0.1, 0.2, 0.3])
  expect(packed('opacity')).toEqual([0.4])
  // n·0.5 + 0.5 with green turned over: x 0.5, y 0.5, z 1.
  expect(packed('normal')).toEqual([0.5, 0.5, 1])
  const deep = read('offline-render', (name, slots) => (name === 'height' ? [0.007] : [0.5, 0.5, 1].slice(0, slots)))
  expect(deep('height')).toEqual([0.007])
  const whole = read('separate-maps', (name, slots) => (name === 'height' ? [0.75] : [0.5, 0.5, 1].slice(0, slots)))
  expect(whole('height')[0]).toBeCloseTo(0.25 * 0.045, 9)
})

test('the list has a line a channel, with its slots, encoding and meaning', () => {
  const lines = connectionList(deliveryRecordOf(packingNamed('occlusion-rough-metal-y-down'), slab), slab).split('\n')
  expect(lines[0]).toBe('# channel\tfile\tslots\tcolours\tmeaning')
  const line = (channel: string) =>
    lines
      .find((one) => one.startsWith(`${channel}\t`))!
      .split('\t')
      .slice(2)
  expect(line('colour')).toEqual(['RGB', 'sRGB', 'v'])
  expect(line('opacity')).toEqual(['A', 'plain', 'v'])
  expect(line('roughness')).toEqual(['G', 'plain', 'v'])
  expect(line('normal')).toEqual(['RGB', 'plain', '2v - 1, Y down'])
  expect(line('emission')).toEqual(['RGB', 'sRGB', 'v * 4'])
  const blocks = deliveryRecordOf(packingNamed('blocks-y-up'), slab)
  const normal = blocks.files.find(({ slots }) => slots[0]!.channel === 'normal')!
  const told = { ...blocks, files: [{ ...normal, block: 'bc5' as const }] }
  expect(connectionList(told, slab)).toContain('\tRG\tplain\t2v - 1, Y up, Z from the others\n')
  const deep = connectionList(deliveryRecordOf(packingNamed('offline-render'), slab), slab)
  expect(deep).toContain('\tgrey\tplain\tmetres from the surface\n')
})
