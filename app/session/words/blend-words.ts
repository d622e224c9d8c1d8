import { BLEND_MODES } from '#core/kernels/blend'

/** A blend in as few letters as a cell has room for; those that would only repeat the default have none. */
const SHORT: Record<string, string> = {
  normal: '',
  combine: '',
  replace: 'repl',
  multiply: '×',
  add: '+',
  subtract: '−',
  'signed-add': '±',
  divide: '÷',
  minimum: 'min',
  maximum: 'max',
  screen: 'scrn',
  overlay: 'over',
  darken: 'dark',
  lighten: 'light',
  'colour-dodge': 'dodge',
  'colour-burn': 'burn',
  'hard-light': 'hard',
  'soft-light': 'soft',
  difference: 'diff',
  exclusion: 'excl',
  saturation: 'sat',
  colour: 'col',
  luminosity: 'lum',
}

export const shortBlend = (blend: string): string => SHORT[blend] ?? blend

/** The blends a channel offers. */
export const blendsFor = (type: string): readonly string[] =>
  type === 'normal' ? ['combine', 'replace'] : (BLEND_MODES as readonly string[])

/** A blend in full. */
export const blendWord = (blend: string): string => blend.replace(/-/g, ' ')
