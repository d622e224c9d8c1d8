import { LUMINANCE, decodeSrgb } from '../../colour/srgb'
import { countBytes } from '../../colour/count-colour'
import { GristError } from '../../errors'
import type { PortType } from '../../field/field'
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
      if (outputs.id) {
        const at = rowStart(outputs.id, y)
        for (let x = 0; x < width; x++) outputs.id.ids![at + x] = type === 'id' ? Math.round(row[3 * x]!) : 0
      }
      if (outputs.grey) greysOf(type, row, outputs.grey.planes[0]!, rowStart(outputs.grey, y), width)
      if (outputs.colour) coloursOf(type, row, outputs.colour.planes, rowStart(outputs.colour, y), width)
      if (outputs.normal) normalsOf(type, row, outputs.normal.planes, rowStart(outputs.normal, y), width)
    })
  },
  example: { onPart: true, params: { kind: 'occlusion' } },
})

/** Greys of a row of mesh data, three numbers a texel. */
function greysOf(type: PortType, row: Float32Array, out: Float32Array, at: number, width: number): void {
  for (let x = 0; x < width; x++) {
    const a = row[3 * x]!
    const b = row[3 * x + 1]!
    const c = row[3 * x + 2]!
    out[at + x] =
      type === 'id'
        ? unitFloat(hash32(Math.round(a)))
        : type === 'normal'
          ? bounded(c)
          : type === 'grey'
            ? bounded(a)
            : bounded(LUMINANCE[0] * a + LUMINANCE[1] * b + LUMINANCE[2] * c)
  }
}

function coloursOf(
  type: PortType,
  row: Float32Array,
  planes: readonly Float32Array[],
  at: number,
  width: number,
): void {
  const [red, green, blue] = planes as [Float32Array, Float32Array, Float32Array]
  for (let x = 0; x < width; x++) {
    if (type === 'id') {
      const bytes = countBytes(Math.round(row[3 * x]!))
      for (let p = 0; p < 3; p++) planes[p]![at + x] = bounded(decodeSrgb(bytes[p]! / 255))
      continue
    }
    red[at + x] = bounded(row[3 * x]!)
    green[at + x] = bounded(row[3 * x + 1]!)
    blue[at + x] = bounded(row[3 * x + 2]!)
  }
}

/** Normals of length 1; straight up where there are none. */
function normalsOf(
  type: PortType,
  row: Float32Array,
  planes: readonly Float32Array[],
  at: number,
  width: number,
): void {
  const [xs, ys, zs] = planes as [Float32Array, Float32Array, Float32Array]
  for (let x = 0; x < width; x++) {
    const a = row[3 * x]!
    const b = row[3 * x + 1]!
    const c = row[3 * x + 2]!
    const length = type === 'normal' ? Math.sqrt(a * a + b * b + c * c) : 0
    const isThere = length > 1e-12
    xs[at + x] = isThere ? bounded(a / length) : 0
    ys[at + x] = isThere ? bounded(b / length) : 0
    zs[at + x] = isThere ? bounded(c / length) : 1
  }
}
