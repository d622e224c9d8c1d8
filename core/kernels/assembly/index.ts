// SIMD twins of kernels, in AssemblyScript. Built by "npm run build:kernels". Pointers are byte offsets into scratch memory
// (core/kernels/simd.ts). Each gives the very bits of its definition in TypeScript, which the comments name.
export { blend } from './blend'
export { bondRow } from './bond'
export { adler, crc, filterRow, interleave, packValues, steps, swapBytes } from './bytes'
export { cellLabels, cellsRow } from './cells'
export { addBoxes, countValues, halvesRow, rgbaRow } from './display'
export { contourDistances, levelled, nearestAcross, transpose, waysDown } from './distance'
export { addScaled, convolve, gatherAlong, gaussian, interpolateAlong, mixRows } from './gaussian'
export { gradient } from './gradient'
export {
  boundRow,
  combineRow,
  dividedRow,
  linesFrom,
  pushByAngle,
  pushBySlope,
  pushByVector,
  pushedFrom,
  readRow,
  shiftedRow,
  transformRow,
  walkDownhill,
  walkRow,
} from './move'
export { overGround, readTexels } from './image'
export { noiseRow } from './noise'
export { occlusion } from './occlusion'
export { adjustNormals, combineNormals, coverageShare, curvatureRow, normalsRow } from './normals'
export { changeGrey, changeTones, maskColours } from './oklab'
export { shapeRow } from './shape'
export { spotsLine, spotsRow } from './spots'
export { stencilRow } from './stencil'
export { decodeSrgb, encodeSrgb } from './srgb'
export { biasGain, curve, heightShare, levels, math, mathByNumber, remap, threshold } from './values'
