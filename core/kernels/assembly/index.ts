// SIMD twins of kernels, in AssemblyScript. Built by "npm run build:kernels". Pointers are byte offsets into scratch memory
// (core/kernels/simd.ts). Each gives the very bits of its definition in TypeScript, which the comments name.
export { lookAround } from './around'
export { blend } from './blend'
export { blendColours } from './blend-colours'
export { bondRow } from './bond'
export { adler, crc, differences, filterRow, interleave, packValues, splitBytes, steps, swapBytes } from './bytes'
export { buildTree } from './bvh'
export { addToSums, boxAlong, boxedRow, moveSums } from './boxes'
export { cellLabels, cellsRow } from './cells'
export { directionsOf, greyOf } from './channels'
export { climb } from './climb'
export { openness, skylight, thickness } from './cone-rays'
export { addBoxes, countValues, halvesRow, rgbaRow } from './display'
export { contourDistances, levelled, nearestAcross, transpose, waysDown } from './distance'
export { addScaled, convolve, gatherAlong, gaussian, interpolateAlong, mixRows } from './gaussian'
export { gradient } from './gradient'
export { boundRow, readRow } from './read-places'
export { combineRow, dividedRow, linesFrom, shiftedRow, walkDownhill, walkRow } from './walk'
export { pushByAngle, pushBySlope, pushByVector, pushedFrom } from './warp'
export { transformRow } from './transform'
export { dealSources, placesWithin, takeDealt, valuesById } from './ids'
export { overGround, readTexels } from './image'
export { coverTexels, meansOfSamples } from './means'
export { mixedExtremes, signedValues, widenRows, windowTables } from './morphology'
export { edgeWear } from './edge-wear'
export { noiseRow } from './noise'
export { occlusion } from './occlusion'
export { adjustNormals, combineNormals, coverageShare, curvatureRow, normalsRow } from './normals'
export { changeGrey, changeTones, maskColours } from './oklab'
export { nearestRows, nearestTexels } from './nearest'
export { countCells, listCells, overlapCells, overlapPairs, overlapSigns } from './overlaps'
export { fillAllNearest, fillNearest, gatherPlane, scatterPlane } from './patches'
export { rampRow } from './ramp'
export { shapeRow } from './shape'
export { solidCellsRow } from './solid-cells'
export { solidNoiseRow } from './solid-noise'
export { foldHighlights, splitSpecular, tintSpecular } from './specular'
export { beginSparse, chooseSamples, spreadGreys, spreadTriples, weighSamples } from './sparse'
export { spotsLine, spotsRow } from './spots'
export { stencilRow } from './stencil'
export { stripesRow } from './stripes'
export { strokesRows } from './strokes'
export { decodeSrgb, encodeSrgb } from './srgb'
export { biasGain, curve, heightShare, levels, math, mathByNumber, remap, threshold } from './values'
export { weaveRow } from './weave'
export {
  addNeighbours,
  beginBorder,
  beginLayout,
  beginRaster,
  claimTexels,
  closeBorder,
  closeRim,
  coverTriangles,
  layRow,
  seedBorder,
  sweepBorder,
} from './islands'
export { fillRims } from './rims'
export { beginBeside, beginLaying, findBeside, layFeet, layTaps } from './strips'
export { nearestPlaces } from './closest'
export { hitsAlong, placesOnHits, surfacePlaces } from './surface'
export { intoFrames, normalsWhereMet } from './tangent-frames'
export { anyHits, closestHits } from './trace'
export { drawTriangles, listSamples } from './raster'
export { encodeColours } from './block-colour'
export { encodeGreys } from './block-grey'
export { encodeBc7 } from './block-bc7'
