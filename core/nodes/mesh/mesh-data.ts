import { LUMINANCE, decodeSrgb } from '../../colour/srgb'
import { countBytes } from '../../colour/count-colour'
import { GristError } from '../../errors'
import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { imageKey } from '../../field/pyramid'
import { defineNode } from '../../graph/define-node'
import type { MeshDataKind } from '../../graph/mesh-data-kinds'
import { MESH_DATA_KINDS, meshDataKinds } from '../../graph/mesh-data-kinds'
import { choice } from '../../graph/parameters'
import { colour, grey, id, normal } from '../../graph/ports'
import { hash32, unitFloat } from '../../random'
import { meshDataRows } from '../../kernels/mesh-data'

const requestOf = (image: string) => ({ image, encoded: false, premultiplied: true })
const words = (kind: string): string => kind.replace('-', ' ')

/** What the geometry of the part knows, as it was baked. Filtering: kernels/mesh-data.ts. */
export default defineNode({
  type: 'mesh-data',
  version: 1,
  family: 'mesh',
  title: 'Mesh data',
  summary: 'What was baked of the part: occlusion, curvature, position, IDs and others.',
  keywords: ['baked', 'geometry', 'occlusion', 'curvature', 'position', 'thickness', 'normal', 'id', 'ambient'],
  params: {
    kind: choice({
      default: 'occlusion',
      options: meshDataKinds as [MeshDataKind, ...MeshDataKind[]],
      help: 'Which of the baked data. In their units: curvature in 1/m, position, height and thickness in m.',
    }),
  },
  inputs: {},
  outputs: {
    grey: grey({
      help: 'The value; of IDs a random one for each, of normals how far they look out, of colours their luminance.',
    }),
    colour: colour({ help: 'Three numbers: a position or a colour; of IDs a colour for each.' }),
    normal: normal({ help: 'Normals; flat for other kinds.' }),
    id: id({ title: 'ID', help: 'Whole numbers; 0 for other kinds.' }),
  },
  uses: ['meshData'],
  meshData: ({ kind }) => kind,
  tiles: false,
  hardEdged: ['id'],
  footprint: 'point',
  images: ({ kind }, _, { part }) => {
    if (!part)
      throw new GristError(
        'mesh-data-missing',
        'This material lies on no part yet, so there is no geometry to read. Choose the part that it is shown on.',
      )
    const image = part.data[kind]
    if (image === undefined)
      throw new GristError('mesh-data-missing', `No ${words(kind)} has been baked for the part “${part.name}”.`)
    return [requestOf(image)]
  },
  evaluate: (_, { kind }, outputs, { width, height, rows, images, part }) => {
    const type = MESH_DATA_KINDS[kind as MeshDataKind]
    const pyramid = images.get(imageKey(requestOf(part!.data[kind]!)))!
    meshDataRows(pyramid, { width, height }, rows, { nearest: type === 'id' }, (y, row) => {
      for (let x = 0; x < width; x++) {
        const [a, b, c] = [row[3 * x]!, row[3 * x + 1]!, row[3 * x + 2]!]
        if (outputs.id) outputs.id.ids![rowStart(outputs.id, y) + x] = type === 'id' ? Math.round(a) : 0
        if (outputs.grey)
          outputs.grey.planes[0]![rowStart(outputs.grey, y) + x] =
            type === 'id'
              ? unitFloat(hash32(Math.round(a)))
              : type === 'normal'
                ? bounded(c)
                : type === 'grey'
                  ? bounded(a)
                  : bounded(LUMINANCE[0] * a + LUMINANCE[1] * b + LUMINANCE[2] * c)
        if (outputs.colour) {
          const at = rowStart(outputs.colour, y) + x
          const shown = type === 'id' ? countBytes(Math.round(a)).map((byte) => decodeSrgb(byte / 255)) : [a, b, c]
          outputs.colour.planes.forEach((plane, p) => (plane[at] = bounded(shown[p]!)))
        }
        if (outputs.normal) {
          const at = rowStart(outputs.normal, y) + x
          const length = type === 'normal' ? Math.sqrt(a * a + b * b + c * c) : 0
          const given = length > 1e-12 ? [a / length, b / length, c / length] : [0, 0, 1]
          outputs.normal.planes.forEach((plane, p) => (plane[at] = bounded(given[p]!)))
        }
      }
    })
  },
  example: { onPart: true, params: { kind: 'occlusion' } },
})
