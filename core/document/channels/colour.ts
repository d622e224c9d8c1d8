import type { FixedChannel } from '../channel'

// Linear light of sRGB 0.5 (IEC 61966-2-1).
const MID = 0.21404114048223255

/** Plausible values: common practice, from memory: non-metals sRGB 30–240, metals 180 and above. */
const colour: FixedChannel = {
  id: 'colour',
  order: 0,
  title: 'Base colour',
  short: 'colour',
  type: 'colour',
  backdrop: [MID, MID, MID],
  transfer: 'srgb',
  range: [0, 1],
  sharpens: true,
  checks: ['plausible-colour', 'pure-black', 'repeat'],
  plausible: {
    ranges: [{ from: 30 / 255, to: 240 / 255, word: 'plausible for non-metals: sRGB 30 to 240' }],
    metals: { from: 180 / 255, to: 1, word: 'plausible for metals: sRGB 180 and above' },
    metalIn: 'metallic',
  },
  fileWords: ['colour', 'color', 'basecolour', 'basecolor', 'albedo', 'diffuse', 'diff', 'col', 'bc'],
}
export default colour
