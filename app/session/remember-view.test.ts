import { fakeStorage } from '../testing/fake-storage'
import { rememberView } from './remember-view'
import { createView, widthFor } from './view'

it('what was chosen last is there again; the rest begins anew', () => {
  fakeStorage()
  const first = createView()
  const end = rememberView(first)
  first.setState({
    width: 1024,
    widthFollows: false,
    tab: 'dials',
    stage: { ...first.getState().stage, shape: 'plane', exposure: 2 },
  })
  end()
  first.setState({ width: 256 })
  const second = createView()
  rememberView(second)
  expect(second.getState()).toMatchObject({ width: 1024, tab: 'selection', stage: { shape: 'plane', exposure: 0 } })
})

it('a part of it is enough, and nothing is written until something changes', () => {
  const storage = fakeStorage()
  storage.set('amber-grist-view', '{"width":256}')
  const view = createView()
  rememberView(view)
  expect(view.getState()).toMatchObject({ width: 256, stage: { shape: 'sphere' } })
  view.setState({ tab: 'states' })
  expect(storage.get('amber-grist-view')).toBe('{"width":256}')
  view.setState({ stage: { ...view.getState().stage, environment: 'workshop' } })
  expect(JSON.parse(storage.get('amber-grist-view')!)).toMatchObject({
    width: 256,
    shape: 'sphere',
    environment: 'workshop',
  })
})

it.each(['{', 'null', '[]', '{"width":300}', '{"shape":"teapot"}', '{"environment":1}'])(
  '%s is not ours: the usual view',
  (text) => {
    fakeStorage().set('amber-grist-view', text)
    const view = createView()
    rememberView(view)
    expect(view.getState()).toEqual(createView().getState())
  },
)

it('does without storage', () => {
  fakeStorage(false)
  const view = createView()
  rememberView(view)
  view.setState({ width: 2048 })
  expect(view.getState().width).toBe(2048)
})

it('a preview that follows the stage is no size to remember; what suits a stage', () => {
  const storage = fakeStorage()
  const view = createView()
  rememberView(view)
  view.setState({ width: 1024 })
  view.setState({ stage: { ...view.getState().stage, shape: 'cube' } })
  expect(JSON.parse(storage.get('amber-grist-view')!)).not.toHaveProperty('width')
  // Shorter sides of stages at 1024 × 700, 1280 × 800, 1440 × 900, 2560 × 1440, and of two texels a pixel.
  expect([330, 415, 470, 760, 1520].map(widthFor)).toEqual([256, 512, 512, 1024, 1024])
})
