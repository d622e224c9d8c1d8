import { ID_KINDS } from '../../picked-ids'
import { GristError } from '../../errors'
import { rowStart } from '../../field/field'
import { imageKey } from '../../field/pyramid'
import { defineNode } from '../../graph/define-node'
import { choice, ids, toggle } from '../../graph/parameters'
import { grey, id } from '../../graph/ports'
import { meshDataRows } from '../../kernels/mesh-data'

const requestOf = (image: string) => ({ image, encoded: false, premultiplied: true })

/** A mask of what has one of some numbers; borders are hard, as IDs do not mix. */
export default defineNode({
  type: 'id-mask',
  version: 1,
  family: 'mesh',
  title: 'ID mask',
  summary: 'Picked IDs of the part as a mask: materials, pieces, islands or painted colours.',
  keywords: ['id', 'select', 'material', 'piece', 'colour id', 'pick', 'polygon group'],
  params: {
    kind: choice({ default: 'material-id', options: ID_KINDS, help: 'What tells places apart.' }),
    ids: ids({ title: 'IDs', help: 'The numbers that are picked: on the stage, or from the list.' }),
    invert: toggle({ default: false, help: 'All but the picked ones.' }),
  },
  inputs: {},
  outputs: {
    mask: grey({ help: '1 on what is picked, 0 elsewhere.' }),
    id: id({ title: 'ID', help: 'The number of each place, picked or not.' }),
  },
  uses: ['meshData'],
  meshData: ({ kind }) => kind,
  tiles: false,
  hardEdged: ['mask', 'id'],
  footprint: 'point',
  images: ({ kind }, _, { part }) => {
    const image = part?.data[kind]
    if (image === undefined)
      throw new GristError(
        'mesh-data-missing',
        part
          ? `No ${kind.replace('-', ' ')} has been baked for the part “${part.name}”.`
          : 'This material lies on no part yet.',
      )
    return [requestOf(image)]
  },
  evaluate: (_, { kind, ids: picked, invert }, { mask, id: number }, { width, height, rows, images, part }) => {
    const wanted = new Set(picked)
    const pyramid = images.get(imageKey(requestOf(part!.data[kind]!)))!
    const [on, off] = invert ? [0, 1] : [1, 0]
    meshDataRows(pyramid, { width, height }, rows, { nearest: true }, (y, row) => {
      for (let x = 0; x < width; x++) {
        const here = Math.round(row[3 * x]!)
        if (mask) mask.planes[0]![rowStart(mask, y) + x] = wanted.has(here) ? on : off
        if (number) number.ids![rowStart(number, y) + x] = here
      }
    })
  },
  example: { onPart: true, params: { ids: [1] } },
})
