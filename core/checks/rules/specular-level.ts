import { encodeSrgb } from '../../colour/srgb'
import { shareBetween } from '../share-between'

/** A specular colour is that of a non-metal or of a metal; only thin borders lie between. */
export default shareBetween({
  name: 'specular-level',
  title: 'Specular is of metal or not',
  reference:
    'Common practice, from memory: non-metals reflect 2 to 8 % (sRGB 40–80), gems up to 17 % (sRGB 115), metals sRGB 155 and above.',
  // The brightest of the three, as files hold it.
  of: ([r, g, b], i) => encodeSrgb(Math.max(r![i]!, g![i]!, b![i]!)),
  ...{ from: 90 / 255, to: 150 / 255, limit: 0.05 },
  message: 'is too bright for a non-metal and too dark for a metal (sRGB 90 to 150)',
  fix: 'Give non-metals sRGB 56 (4 %), and how dull they are to gloss; keep metals at 155 and above.',
})
