import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'
import { channelsFor } from '../check'
import type { CheckSubject } from '../subject'
import { texelsWhere } from '../texels-where'

/** What 8 bits may round to beyond one, near white. */
const ROUNDED = 1.01
const SHARE = 0.001

/** A surface scatters and reflects no more light than meets it. */
const specularEnergy: CheckRule = {
  name: 'specular-energy',
  title: 'Diffuse and specular add up to less than 1',
  reference:
    'KHR_materials_pbrSpecularGlossiness: diffuse is scaled by 1 − the largest of specular, as a surface reflects no more than meets it.',
  run: (subject) => {
    const sums = sumsOf(subject)
    if (!sums) return []
    const { ratio, marks } = texelsWhere(sums.field, (x, y) => sums.at(x, y) > ROUNDED)
    if (ratio < SHARE) return []
    return [
      {
        severity: 'warning',
        channel: 'specular',
        message: `and diffuse add up to more than 1 in ${(100 * ratio).toFixed(1)} % of the texels.`,
        value: ratio,
        fix: 'Metal has no diffuse colour: take it out where specular is bright, or lower specular.',
        marks,
      },
    ]
  },
  measure: (subject) => {
    const sums = sumsOf(subject)
    if (!sums) return null
    let max = 0
    for (let y = 0; y < sums.field.rows; y++)
      for (let x = 0; x < sums.field.width; x++) max = Math.max(max, sums.at(x, y))
    return `up to ${max.toFixed(2)}`
  },
}

/** The largest of the three sums of a texel, in linear light; null where one of the two is not there. */
function sumsOf(subject: CheckSubject) {
  const [specular] = channelsFor(subject, 'specular-energy')
  const diffuse = subject.channels.find(({ channel }) => channel.id === 'diffuse')?.field
  if (!specular || !diffuse) return null
  const { field } = specular
  const [r, g, b] = diffuse.planes as [Float32Array, Float32Array, Float32Array]
  const [u, v, w] = field.planes as [Float32Array, Float32Array, Float32Array]
  const at = (x: number, y: number): number => {
    const [d, s] = [rowStart(diffuse, y) + x, rowStart(field, y) + x]
    return Math.max(r[d]! + u[s]!, g[d]! + v[s]!, b[d]! + w[s]!)
  }
  return { field, at }
}

export default specularEnergy
