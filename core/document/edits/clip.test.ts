import fc from 'fast-check'
import { produce } from 'immer'
import { channelOutput } from '../address'
import { CHANNELS } from '../channels'
import type { MaterialDocument } from '../document'
import { allLayers } from '../document'
import { applyDials } from '../apply-dials'
import { registry } from '../../nodes/registry.generated'
import { bitsOf, documentOf } from '../../testing/examples'
import { materialHere } from '../../testing/material-here'
import { sheet } from '../../testing/sheet'
import { findLayer, findPlain } from './layers'
import {
  clipCell,
  clipDials,
  clipLayers,
  clipMask,
  clipNodes,
  isClip,
  pasteCell,
  pasteDials,
  pasteEntries,
  pasteLayers,
  pasteNodes,
  readClip,
} from './clip'

const read = (text: string | null) => readClip(text!, registry)
const other = () => documentOf({ nodes: { soft: { type: 'invert', inputs: { source: { value: 1 } } } } })

async function picture(document: MaterialDocument): Promise<unknown> {
  const outputs = CHANNELS.map(({ id }) => channelOutput(id))
  const { fields } = await materialHere(document).evaluate({ outputs, width: 8 })
  return [...fields].map(([name, field]) => [name, bitsOf(field)])
}

it('nodes travel into another document, loose where they led out', () => {
  const into = other()
  expect(pasteNodes(into, read(clipNodes(sheet(), ['soft', 'tint'])), [10, 10])).toEqual(['soft-2', 'tint'])
  expect(into.nodes['soft-2']!.inputs).toEqual({})
  expect(into.nodes.tint!.inputs).toEqual({ source: 'soft-2.result' })
})

it('layers travel with all they rest on: the whole sheet, pasted into an empty document, looks the same', async () => {
  const from = sheet()
  const into = documentOf({ nodes: { noise: { type: 'cells' } } })
  pasteLayers(
    into,
    read(
      clipLayers(
        from,
        [...allLayers(from.layers)].map(({ id }) => id),
      ),
    ),
    null,
  )
  expect(into.nodes.noise!.type).toBe('cells')
  expect(await picture(into)).toEqual(await picture(from))
  // The dial came along and turns it.
  const turned = (document: MaterialDocument) => produce(document, (draft) => void (draft.dials[0]!.value = 0.9))
  expect(await picture(turned(into))).toEqual(await picture(turned(from)))
})

it('a copy of any layer, pasted above it in any document with other ids, reads nothing of the original', () => {
  const ids = [...allLayers(sheet().layers)].map(({ id }) => id)
  fc.assert(
    fc.property(fc.subarray(ids, { minLength: 1 }), fc.constantFrom(...ids), (chosen, above) => {
      const into = sheet()
      const before = new Set(Object.keys(into.nodes))
      const pasted = pasteLayers(into, read(clipLayers(sheet(), chosen)), above)
      for (const id of pasted) {
        const text = JSON.stringify(findLayer(into, id))
        for (const node of before) expect(text).not.toContain(`"${node}.`)
      }
      // Every id is there once, and the whole is a document still: its dials find what they drive.
      const all = [...allLayers(into.layers)].map(({ id }) => id)
      expect(new Set(all).size).toBe(all.length)
      applyDials(into)
    }),
    { numRuns: 40 },
  )
})

it('a cell goes into another channel and another document, with nodes of its own', () => {
  const into = documentOf({ layers: [{ kind: 'layer', id: 'base', name: 'Base', cells: {} }] })
  expect(clipCell(sheet(), { layer: 'base', channel: 'height' })).toBeNull()
  pasteCell(into, read(clipCell(sheet(), { layer: 'rust', channel: 'colour' })), { layer: 'base', channel: 'emission' })
  expect(findPlain(into, 'base')!.cells.emission).toMatchObject({ source: { node: 'tint.result' }, blend: 'normal' })
  expect(Object.keys(into.nodes)).toEqual(['tint', 'soft', 'noise'])
})

it('a mask, or one entry of it, goes on top of another', () => {
  const into = documentOf({ layers: [{ kind: 'layer', id: 'base', name: 'Base', mask: [{ source: { value: 1 } }] }] })
  expect(pasteEntries(into, read(clipMask(sheet(), 'wear', null)), 'base')).toBe(3)
  expect(pasteEntries(into, read(clipMask(sheet(), 'wear', 1)), 'base')).toBe(4)
  expect(findLayer(into, 'base')!.mask.map(({ source }) => source)).toEqual([
    { value: 1 },
    { node: 'soft.result' },
    { value: 0.25 },
    { value: 0.75 },
    { value: 0.25 },
  ])
  expect(clipMask(sheet(), 'base', null)).toBeNull()
})

it('dials come in with what they turn where that is here and nothing else turns it', () => {
  const text = clipDials(sheet(), ['worn'])
  const elsewhere = other()
  pasteDials(elsewhere, read(text))
  expect(elsewhere.dials).toMatchObject([{ id: 'worn', label: 'Worn', drives: [] }])
  const again = sheet()
  pasteDials(again, read(text))
  expect(again.dials.map(({ id, drives }) => [id, drives.length])).toEqual([
    ['worn', 4],
    ['worn-2', 0],
  ])
})

it('what lies below stays with nodes of a correction; what is not here is left out', () => {
  const from = documentOf({
    nodes: { soft: { type: 'blur', inputs: { source: { backdrop: 'height' }, radiusBy: { tap: 'lost' } } } },
  })
  const into = documentOf({})
  pasteNodes(into, read(clipNodes(from, ['soft'])), [0, 0])
  expect(into.nodes.soft!.inputs).toEqual({ source: { backdrop: 'height' } })
})

it.each([
  ['hello', 'not JSON'],
  ['{"format":"x"}', 'expected "format"'],
  ['{"format":"amber-grist/clip","version":2,"kind":"nodes","nodes":{"a":{"type":"nope"}}}', 'no node type'],
  ['{"format":"amber-grist/clip","version":2,"kind":"nodes","nodes":{"a":{"type":5}}}', 'received 5'],
  ['{"format":"amber-grist/clip","version":2,"kind":"layers","layers":[{"kind":"pile"}]}', 'layers[0]'],
])('%s is refused', (text, words) => {
  expect(() => read(text)).toThrow(words)
  expect(isClip(text)).toBe(text.includes('clip'))
})
