import { readFileSync, readdirSync } from 'node:fs'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import type { Progress } from './steps'
import { STEPS } from './steps'

const start = parseDocument({
  format: 'amber-grist/material',
  version: 2,
  name: 'Plate',
  domain: { kind: 'tile', metres: [1, 1] },
  layers: [{ kind: 'layer', id: 'base', name: 'Base', cells: { colour: { source: { value: '#5b7a78' } } } }],
})
const changed = (from: MaterialDocument, change: (document: MaterialDocument) => void): MaterialDocument => {
  const document = structuredClone(from)
  change(document)
  return parseDocument(document)
}
const plain = (document: MaterialDocument, id: string) => {
  const layer = document.layers.find((one) => one.id === id)!
  if (layer.kind === 'group') throw new Error('a group')
  return layer
}
const entry = (node: string) => ({ source: { node }, mode: 'multiply' as const, amount: 1, invert: false })
const height = (value: number) => ({
  source: { value },
  blend: 'normal' as const,
  amount: 1,
  encoding: 'srgb' as const,
})

const correction = {
  kind: 'correction' as const,
  id: 'c',
  name: 'C',
  amount: 1,
  mask: [],
  cells: { colour: { ...height(0), source: { node: 'a.result' } } },
}

/** The walk as somebody does it: what each step that waits must not take for done, and what it does. */
const masked = changed(start, (one) => {
  one.nodes = { n: { type: 'noise' } }
  plain(one, 'base').mask = [entry('n.grey')]
})
const wired = changed(masked, (one) => {
  one.nodes.t = { type: 'threshold', inputs: { source: 'n.grey' } }
  plain(one, 'base').mask = [entry('t.result')]
})
const WALK: Record<string, { from?: MaterialDocument; almost: Partial<Progress>[]; done: Partial<Progress> }> = {
  'Add a layer': {
    almost: [{ document: changed(start, (one) => void (one.layers[0]!.name = 'Other')) }],
    done: {
      document: changed(start, (one) => void one.layers.push({ ...structuredClone(plain(start, 'base')), id: 'two' })),
    },
  },
  'Give it a colour': {
    almost: [{ document: changed(start, (one) => void (one.layers[0]!.amount = 0.5)) }],
    done: {
      document: changed(start, (one) => void (plain(one, 'base').cells.colour!.source = { value: '#8a4b23' })),
    },
  },
  'Let it show in patches': {
    almost: [
      { document: changed(start, (one) => void (one.nodes = { n: { type: 'noise' } })) },
      {
        document: changed(
          start,
          (one) => void (plain(one, 'base').mask = [{ ...entry('n.grey'), source: { value: 1 } }]),
        ),
      },
    ],
    done: { document: masked },
  },
  'Harden the patches': {
    from: masked,
    almost: [
      { document: changed(masked, (one) => void (one.nodes.t = { type: 'threshold', params: { level: 0.6 } })) },
      { document: wired },
    ],
    done: { document: changed(wired, (one) => void (one.nodes.t!.params = { level: 0.6 })) },
  },
  'Give it height': {
    almost: [{ document: changed(start, (one) => void (plain(one, 'base').cells.height = height(0.5))) }],
    done: { document: changed(start, (one) => void (plain(one, 'base').cells.height = height(0.6))) },
  },
  'Make a dial': {
    almost: [],
    done: {
      document: changed(
        start,
        ({ dials }) => void dials.push({ id: 'd', label: 'D', kind: 'number', default: 0, value: 0, drives: [] }),
      ),
    },
  },
  'A picture of your own': {
    almost: [{ document: changed(start, (one) => void (one.nodes = { i: { type: 'image' } })) }],
    done: {
      document: changed(start, (one) => void (one.nodes = { i: { type: 'image', params: { image: 'sha256:ab' } } })),
    },
  },
  'Correct it all': {
    almost: [{ document: changed(start, (one) => void one.layers.push({ ...correction, cells: {} })) }],
    done: {
      document: changed(start, (one) => {
        one.nodes = { a: { type: 'adjust-colour', inputs: { source: { backdrop: 'colour' } } } }
        one.layers.push(correction)
      }),
    },
  },
  'On to the maps': { almost: [], done: { here: 'maps' } },
  'Make them': { almost: [{ here: 'maps' }], done: { here: 'maps', asked: true } },
}

test('each step that waits goes on when it is really done, and not before', () => {
  expect(STEPS.filter((step) => step.done).map(({ title }) => title)).toEqual(Object.keys(WALK))
  for (const { title, done } of STEPS) {
    if (!done) continue
    const { from = start, almost, done: last } = WALK[title]!
    const progress: Progress = { document: from, start: from, here: 'material', asked: false }
    expect([title, done(progress)]).toEqual([title, false])
    for (const one of almost) expect([title, one, done({ ...progress, ...one })]).toEqual([title, one, false])
    expect([title, done({ ...progress, ...last })]).toEqual([title, true])
  }
})

test('what a step stands beside is on its screen; all of the material comes before the maps', () => {
  const sources = readdirSync('app', { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.tsx'))
    .map((name) => readFileSync(`app/${name}`, 'utf8'))
    .join('\n')
  for (const { at } of STEPS) expect(sources).toMatch(new RegExp(`guide(=|: )["']${at}["']`))
  expect(STEPS.map(({ here }) => here).lastIndexOf('material')).toBeLessThan(
    STEPS.findIndex(({ here }) => here === 'maps'),
  )
})
