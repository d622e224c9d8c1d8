import { encodeSrgb } from '../../colour/srgb'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import { texelsWhere } from '../texels-where'

/** Fewer texels than this are nothing to look at. */
const SHARE = 0.01

/** Base colours that no real surface has. */
const plausibleColour: CheckRule = {
  name: 'plausible-colour',
  title: 'Plausible colour',
  reference: 'Common practice, from memory: non-metals lie within sRGB 30–240, metals at 180 and above.',
  run: (subject) => {
    const [one] = channelsFor(subject, 'plausible-colour')
    if (!one) return []
    const { channel, field: colour } = one
    const { ranges: [other] = [], metals, metalIn } = channel.plausible!
    const metallic = subject.channels.find(({ channel: { id } }) => id === metalIn)?.field
    const cases = [
      { what: 'darker than a non-metal can be (sRGB under 30)', metal: false, out: (v: number) => v < other!.from },
      { what: 'brighter than a non-metal can be (sRGB over 240)', metal: false, out: (v: number) => v > other!.to },
      { what: 'darker than a metal can be (sRGB under 180)', metal: true, out: (v: number) => v < metals!.from },
    ]
    return cases.flatMap(({ what, metal, out }) => {
      const { ratio, marks } = texelsWhere(colour, (x, y) => {
        const isMetal = metallic ? metallic.planes[0]![rowStart(metallic, y) + x]! > 0.5 : false
        return isMetal === metal && out(brightness(colour, x, y))
      })
      if (ratio < SHARE) return []
      return [
        {
          severity: 'warning' as const,
          channel: channel.id,
          message: `is ${what} in ${(100 * ratio).toFixed(1)} % of the texels.`,
          value: ratio,
          fix: 'Put levels or adjust-colour on the layer that is strongest there; shade belongs into occlusion.',
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
