import { expect, test } from '@playwright/test'
import { evaluateOutputs, documentOf } from '#core/testing/examples'
import { encodeSrgb } from '#core/colour/srgb'

/**
 * Chromium's canvas draws by the same recommendation (W3C Compositing and Blending Level 1), written by others: two
 * half-transparent layers blended in a group of their own, laid on an opaque ground.
 */
const CANVAS = {
  normal: 'source-over',
  multiply: 'multiply',
  screen: 'screen',
  overlay: 'overlay',
  darken: 'darken',
  lighten: 'lighten',
  'colour-dodge': 'color-dodge',
  'colour-burn': 'color-burn',
  'hard-light': 'hard-light',
  'soft-light': 'soft-light',
  difference: 'difference',
  exclusion: 'exclusion',
  hue: 'hue',
  saturation: 'saturation',
  colour: 'color',
  luminosity: 'luminosity',
} as const

const COLOURS = ['#000000', '#ffffff', '#b4690e', '#2f6f4f', '#1b2a91', '#e03a3a', '#808080', '#f0e6d2']
const GROUND = '#96755a'
const ALPHAS = [
  [1, 1],
  [1, 0.6],
  [0.5, 0.75],
] as const

for (const [mode, operation] of Object.entries(CANVAS))
  test(`${mode} in a group is what Chromium draws`, async ({ page }) => {
    const cases = COLOURS.flatMap((below, i) =>
      ALPHAS.map(([a, b]) => ({ below, above: COLOURS[(i + 3) % COLOURS.length]!, alphaBelow: a, alphaAbove: b })),
    )
    const drawn = await page.evaluate(
      ({ list, ground, how }) =>
        list.map(({ below, above, alphaBelow, alphaAbove }) => {
          const context = () => new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
          const group = context()
          const fill = (target: OffscreenCanvasRenderingContext2D, colour: string, alpha: number) => {
            target.globalAlpha = alpha
            target.fillStyle = colour
            target.fillRect(0, 0, 1, 1)
          }
          fill(group, below, alphaBelow)
          group.globalCompositeOperation = how
          fill(group, above, alphaAbove)
          const page = context()
          fill(page, ground, 1)
          page.globalAlpha = 1
          page.drawImage(group.canvas, 0, 0)
          return [...page.getImageData(0, 0, 1, 1).data].slice(0, 3)
        }),
      { list: cases, ground: GROUND, how: operation },
    )
    for (const [i, { below, above, alphaBelow, alphaAbove }] of cases.entries()) {
      const cell = (value: string, blend = 'normal') => ({ colour: { source: { value }, blend } })
      const document = documentOf({
        layers: [
          { kind: 'layer', id: 'ground', name: '', cells: cell(GROUND) },
          {
            kind: 'group',
            id: 'g',
            name: '',
            closed: true,
            layers: [
              { kind: 'layer', id: 'below', name: '', amount: alphaBelow, cells: cell(below) },
              { kind: 'layer', id: 'above', name: '', amount: alphaAbove, cells: cell(above, mode) },
            ],
          },
        ],
      })
      const { fields } = await evaluateOutputs(document, ['colour'], 1)
      const ours = fields.get('colour')!.planes.map((plane) => encodeSrgb(plane[0]!) * 255)
      // The canvas keeps premultiplied 8-bit values: two steps at half coverage.
      ours.forEach((v, c) =>
        expect(
          Math.abs(v - drawn[i]![c]!),
          `${below} under ${above}, ${alphaBelow}, ${alphaAbove}`,
        ).toBeLessThanOrEqual(2.5),
      )
    }
  })
