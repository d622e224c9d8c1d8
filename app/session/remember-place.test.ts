import { documentOf } from '#core/testing/examples'
import { parseOutput } from '#core/document/address'
import { fakeStorage } from '../testing/fake-storage'
import { rememberPlace } from './remember-place'
import { createView } from './view'

const document = documentOf({ layers: [{ kind: 'layer', id: 'base', name: 'Base', cells: {} }] })

it('each document has its own place: what is chosen, the graph, the tab, folds and the stage’s look', () => {
  fakeStorage()
  const first = createView()
  rememberPlace(first, 'one', document)
  const place = {
    selection: { kind: 'cell', layer: 'base', channel: 'colour' },
    wholeGraph: true,
    tab: 'dials',
    folded: new Set(['group']),
  } as const
  const stage = { mode: 'flat', exposure: 1, repeat: 3, shown: parseOutput('height') } as const
  first.setState({ ...place, stage: { ...first.getState().stage, ...stage } })
  const again = createView()
  rememberPlace(again, 'one', document)
  expect(again.getState()).toMatchObject({ ...place, stage })
  const other = createView()
  rememberPlace(other, 'two', document)
  expect(other.getState()).toEqual(createView().getState())
})

it('what is gone is not chosen, and what is not ours is nothing', () => {
  const storage = fakeStorage()
  for (const [text, selection] of [
    ['{"selection":{"kind":"layer","layer":"gone"},"tab":"states"}', null],
    ['{"selection":{"kind":"layer","layer":"base"}}', { kind: 'layer', layer: 'base' }],
    ['{"selection":{"kind":"wheel"}}', null],
    ['{"stage":{"shown":"nothing:here:at:all"}}', null],
  ] as const) {
    storage.set('amber-grist-view:one', text)
    const view = createView()
    rememberPlace(view, 'one', document)
    expect(view.getState().selection).toEqual(selection)
    expect(view.getState().stage.shown).toBeNull()
  }
})
