import { emptyDocument } from '../testing/empty-document'
import { clashPlace, clashValue } from './clash-words'

test('places and values are told by the names people gave', () => {
  const document = emptyDocument({
    layers: [{ kind: 'group', id: 'g', name: 'Ground', layers: [{ kind: 'layer', id: 'm', name: 'Moss' }] }],
    dials: [{ id: 'd', label: 'Joint width', default: 0, value: 0, drives: [] }],
    nodes: { n: { type: 'noise', name: 'Grime' }, c: { type: 'cells' } },
  })
  const told = (...path: string[]) => clashPlace(path, document)
  expect([
    told('layers', 'm', 'cells', 'roughness', 'amount'),
    told('layers', 'm'),
    told('layers', '', 'order'),
    told('layers', 'g', 'order'),
    told('dials', 'd', 'value'),
    told('nodes', 'n', 'params', 'octaves'),
    told('nodes', 'c'),
    told('layers', 'gone', 'name'),
    told('heightMetres'),
  ]).toEqual([
    'Layer Moss: roughness amount',
    'Layer Moss',
    'Order of layers',
    'Order in Ground',
    'Dial Joint width: value',
    'Node Grime: octaves',
    'Node c',
    'Layer gone: name',
    'heightMetres',
  ])
  expect([undefined, 0.1 + 0.2, 'mix', '', [1, 2]].map(clashValue)).toEqual([
    'deleted',
    '0.3',
    'mix',
    'the top',
    '[1,2]',
  ])
})
