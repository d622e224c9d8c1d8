import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import type { DefaultNode } from '../../graph/ports'
import { grey } from '../../graph/ports'

const standard = (type: string, port: string): DefaultNode => ({ type, params: {}, port })

/** Wear in one grey, mid-grey untouched. Own composition: ½ + ½·edges − ½·max(crevices, leaks), edges over dirt. */
export default defineNode({
  type: 'wear-mask',
  version: 1,
  family: 'mesh',
  title: 'Wear mask',
  summary: 'Edges, crevices and leaks as one grey: lighter is worn, darker is dirty, mid-grey is untouched.',
  keywords: ['wear', 'dirt', 'weathering', 'grunge', 'combined', 'overlay'],
  params: {
    edges: number({ default: 1, min: 0, max: 1, help: 'How strongly edges lighten.' }),
    crevices: number({ default: 0.8, min: 0, max: 1, help: 'How strongly crevices darken.' }),
    leaks: number({ default: 0.6, min: 0, max: 1, help: 'How strongly leaks darken.' }),
  },
  inputs: {
    edges: grey({ help: 'Worn edges, 0 to 1.', whenUnconnected: standard('edge-wear', 'edges') }),
    crevices: grey({ help: 'Dirty crevices, 0 to 1.', whenUnconnected: standard('crevice', 'crevices') }),
    leaks: grey({ help: 'Leaks, 0 to 1.', whenUnconnected: standard('leaks', 'leaks') }),
  },
  outputs: {
    wear: grey({ help: '0.5 untouched, towards 1 worn, towards 0 dirty.' }),
    worn: grey({ help: 'What is worn alone, 0 to 1.' }),
    dirty: grey({ help: 'What is dirty alone, 0 to 1.' }),
  },
  tiles: false,
  footprint: 'point',
  evaluate: (inputs, params, { wear, worn, dirty }, { width, rows }) => {
    const within = (value: number): number => Math.min(1, Math.max(0, value))
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const [e, c, l] = [inputs.edges, inputs.crevices, inputs.leaks].map((field) => rowStart(field, y)) as [
        number,
        number,
        number,
      ]
      const [w, v, d] = [wear, worn, dirty].map((field) => (field ? rowStart(field, y) : 0)) as [number, number, number]
      for (let x = 0; x < width; x++) {
        const light = within(inputs.edges.planes[0]![e + x]!) * params.edges
        const dark = Math.max(
          within(inputs.crevices.planes[0]![c + x]!) * params.crevices,
          within(inputs.leaks.planes[0]![l + x]!) * params.leaks,
        )
        // What is rubbed bright has lost its dirt.
        const left = dark * (1 - light)
        if (wear) wear.planes[0]![w + x] = bounded(0.5 + light / 2 - left / 2)
        if (worn) worn.planes[0]![v + x] = bounded(light)
        if (dirty) dirty.planes[0]![d + x] = bounded(left)
      }
    }
  },
  example: { onPart: true },
})
