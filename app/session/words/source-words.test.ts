import { documentOf } from '#core/testing/examples'
import { nodeTitle } from './source-words'

it('nodes that would be called the same are told apart by a number, in the order of their ids; own names stay', () => {
  const document = documentOf({
    nodes: {
      'noise-10': { type: 'noise' },
      'noise-2': { type: 'noise' },
      noise: { type: 'noise' },
      silt: { type: 'levels', name: 'Silt' },
      mud: { type: 'curve', name: 'Silt' },
      fine: { type: 'ramp', name: 'Noise 2' },
    },
  })
  const titles = Object.fromEntries(Object.keys(document.nodes).map((id) => [id, nodeTitle(document, id)]))
  expect(titles).toEqual({
    noise: 'Noise',
    'noise-2': 'Noise 3',
    'noise-10': 'Noise 4',
    fine: 'Noise 2',
    mud: 'Silt',
    silt: 'Silt 2',
  })
  expect(new Set(Object.values(titles)).size).toBe(6)
})
