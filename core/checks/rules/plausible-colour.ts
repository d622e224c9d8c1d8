import { encodeSrgb } from '../../colour/srgb'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { METAL, NON_METAL } from '../../document/plausible'
import { texelsWhere } from '../texels-where'

/** Fewer texels than this are nothing to look at. */
const SHARE = 0.01

/** Base colours that no real surface has. */
const plausibleColour: CheckRule = {
  name: 'plausible-colour',
  title: 'Plausible colour',
  source: 'Common practice, from memory: non-metals lie within sRGB 30–240, metals at 180 and above.',
  run: ({ channels }) => {
    const colour = channels.find(({ channel }) => channel.id === 'colour')?.field
    if (!colour) return []
    const metallic = channels.find(({ channel }) => channel.id === 'metallic')?.field
    const cases = [
      { what: 'darker than a non-metal can be (sRGB under 30)', metal: false, out: (v: number) => v < NON_METAL.from },
      { what: 'brighter than a non-metal can be (sRGB over 240)', metal: false, out: (v: number) => v > NON_METAL.to },
      { what: 'darker than a metal can be (sRGB under 180)', metal: true, out: (v: number) => v < METAL.from },
    ]
    return cases.flatMap(({ what, metal, out }) => {
      const { share, marks } = texelsWhere(colour, (x, y) => {
        const isMetal = metallic ? metallic.planes[0]![rowStart(metallic, y) + x]! > 0.5 : false
        return isMetal === metal && out(brightness(colour, x, y))
      })
      if (share < SHARE) return []
      return [
        {
          severity: 'warning' as const,
          channel: 'colour',
          message: `is ${what} in ${(100 * share).toFixed(1)} % of the texels.`,
          figure: share,
          mend: 'Put levels or adjust-colour on the layer that is strongest there; shade belongs into occlusion.',
          marks,
        },
      ]
    })
  },
}

/** The brightest of the three, sRGB-encoded: a saturated colour may lack one or two of them. */
function brightness(colour: Field, x: number, y: number): number {
  const i = rowStart(colour, y) + x
  return encodeSrgb(Math.max(colour.planes[0]![i]!, colour.planes[1]![i]!, colour.planes[2]![i]!))
}

export default plausibleColour
