import { readFileSync, readdirSync } from 'node:fs'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import type { ScreenName } from '../../session/screens'
import { STEPS } from './steps'

const start = parseDocument({
  format: 'amber-grist/material',
  version: 2,
  name: 'Plate',
  domain: { kind: 'tile', metres: [1, 1] },
  layers: [{ kind: 'layer', id: 'base', name: 'Base', cells: { colour: { source: { value: '#5b7a78' } } } }],
})
const changed = (change: (document: MaterialDocument) => void): MaterialDocument => {
  const document = structuredClone(start)
  change(document)
  return parseDocument(document)
}
const plain = (document: MaterialDocument, id: string) => {
  const layer = document.layers.find((one) => one.id === id)!
  if (layer.kind === 'group') throw new Error('a group')
  return layer
}
const layer = (id: string): MaterialDocument['layers'][number] => ({
  ...structuredClone(plain(start, 'base')),
  id,
  name: id,
})

test('each step that waits for something waits for just that', () => {
  const done: Record<string, { document?: MaterialDocument; here?: ScreenName }> = {
    'Add a layer': { document: changed(({ layers }) => void layers.push(layer('two'))) },
    'Give it a colour': {
      document: changed((one) => (plain(one, 'base').cells.colour!.source = { value: '#8a4b23' })),
    },
    'Let it show in patches': { document: changed(({ nodes }) => (nodes.n = { type: 'noise' })) },
    'Harden the patches': { document: changed(({ nodes }) => (nodes.c = { type: 'threshold' })) },
    'Give it height': {
      document: changed(
        (one) => (plain(one, 'base').cells.height = { ...plain(one, 'base').cells.colour!, source: { value: 0.4 } }),
      ),
    },
    'Make a dial': {
      document: changed(({ dials }) =>
        dials.push({ id: 'd', label: 'D', kind: 'number', default: 0, value: 0, drives: [] } as never),
      ),
    },
    'On to the maps': { here: 'maps' },
  }
  expect(STEPS.filter((step) => step.done).map(({ title }) => title)).toEqual(Object.keys(done))
  for (const step of STEPS) {
    const { document = start, here = 'material' } = done[step.title] ?? {}
    expect([step.title, step.done?.(start, start, 'material') ?? false]).toEqual([step.title, false])
    if (step.done) expect([step.title, step.done(document, start, here)]).toEqual([step.title, true])
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
