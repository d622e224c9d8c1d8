import type { FixedChannel } from '../channel'

/** The normal as a direction in the space of the model, for renderers without tangents: a part has one, a tile none. */
const objectNormal: FixedChannel = {
  id: 'object-normal',
  order: 5,
  title: 'Object normal',
  short: 'obj. norm.',
  type: 'normal',
  backdrop: [0, 0, 1],
  transfer: 'raw',
  range: [-1, 1],
  derived: { node: 'tangent-to-object', port: 'result', onPart: true },
  fileWords: ['objectnormal', 'normalobject', 'osnormal', 'normalos', 'worldnormal', 'normalworld'],
}
export default objectNormal
