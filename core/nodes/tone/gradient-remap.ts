import { hexToLinear } from '../../colour/srgb'
import { defineNode } from '../../graph/define-node'
import { choice, stops } from '../../graph/parameters'
import { colour, grey } from '../../graph/ports'
import { INTERPOLATIONS, MIX_SPACES, gradientFields } from '../../kernels/gradient'

/** Grey to colour through stops. Source of the default mixing space: B. Ottosson's Oklab, 2020. */
export default defineNode({
  type: 'gradient-remap',
  version: 1,
  family: 'tone',
  title: 'Gradient remap',
  summary: 'Turns grey into colours through a ramp of stops.',
  keywords: ['colour ramp', 'colourise', 'tint', 'two colours', 'map'],
  usualFor: ['grey'],
  params: {
    stops: stops({
      default: [
        { at: 0, colour: '#2b2a26' },
        { at: 1, colour: '#d9cfba' },
      ],
      help: 'Colours and the grey values they stand at.',
    }),
    mix: choice({
      default: 'oklab',
      options: MIX_SPACES,
      help: 'Where colours are mixed: even to the eye, as light, or on encoded values.',
    }),
    steps: choice({
      default: 'linear',
      options: INTERPOLATIONS,
      help: 'Straight between stops, eased, or one flat colour a stop.',
    }),
  },
  inputs: { source: grey({ help: 'What is coloured.' }) },
  outputs: { result: colour({ help: 'The colours.' }) },
  footprint: 'point',
  presets: [
    {
      title: 'Rust',
      keywords: ['iron', 'orange', 'corrosion'],
      params: {
        stops: [
          { at: 0, colour: '#2c1710' },
          { at: 0.45, colour: '#6b3115' },
          { at: 0.75, colour: '#a6541f' },
          { at: 1, colour: '#c9833f' },
        ],
      },
    },
    {
      title: 'Verdigris',
      keywords: ['copper', 'green', 'patina'],
      params: {
        stops: [
          { at: 0, colour: '#3b2a1e' },
          { at: 0.4, colour: '#5b6b57' },
          { at: 0.75, colour: '#6fa08c' },
          { at: 1, colour: '#a9cdb9' },
        ],
      },
    },
    {
      title: 'Limestone',
      keywords: ['stone', 'cream'],
      params: {
        stops: [
          { at: 0, colour: '#857a66' },
          { at: 0.5, colour: '#b9ae97' },
          { at: 1, colour: '#dcd4c2' },
        ],
      },
    },
    {
      title: 'Grey to black',
      keywords: ['ash', 'soot'],
      params: {
        stops: [
          { at: 0, colour: '#141413' },
          { at: 1, colour: '#8c8a85' },
        ],
      },
    },
  ],
  evaluate: ({ source }, params, { result }, { rows }) => {
    if (!result) return
    const linear = params.stops.map(({ at, colour: hex }) => ({ at, colour: hexToLinear(hex) }))
    gradientFields(source, result, rows, linear, params.mix, params.steps)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5] } } },
    inputs: { source: 'noise.grey' },
    params: {
      stops: [
        { at: 0.2, colour: '#2e3b33' },
        { at: 0.5, colour: '#8a7a5c' },
        { at: 0.8, colour: '#d8d2c4' },
      ],
    },
  },
})
