/** The screens of a material, as the job goes; `path` follows the document's own address. */
export const SCREENS = [
  { name: 'material', word: 'Material', path: '' },
  { name: 'maps', word: 'Maps', path: '/maps' },
] as const

export type ScreenName = (typeof SCREENS)[number]['name']
