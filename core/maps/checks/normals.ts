import { rowStart } from '../../field/field'
import type { CheckRule } from '../check'

/** Unit length and facing outward. */
const normals: CheckRule = {
  name: 'normals',
  title: 'Normals',
  source: 'glTF 2.0, section 3.9.3 (unit vectors, z > 0); the tolerance 0.02 covers 8-bit rounding (own derivation).',
  run: ({ channels }) =>
    channels
      .filter(({ channel }) => channel.type === 'normal')
      .flatMap(({ channel, field }) => {
        const [px, py, pz] = field.planes as [Float32Array, Float32Array, Float32Array]
        let bad = 0
        let at: [number, number] | undefined
        for (let y = 0; y < field.rows; y++) {
          const start = rowStart(field, y)
          for (let x = 0; x < field.width; x++) {
            const i = start + x
            const length = Math.sqrt(px[i]! * px[i]! + py[i]! * py[i]! + pz[i]! * pz[i]!)
            if (Math.abs(length - 1) <= 0.02 && pz[i]! > 0) continue
            bad++
            at ??= [(x + 0.5) / field.width, (y + 0.5) / field.height]
          }
        }
        if (!bad) return []
        const share = bad / (field.width * field.rows)
        return [
          {
            severity: 'error' as const,
            channel: channel.id,
            message: `${(100 * share).toFixed(2)} % of the normals are not of length 1 or face inward.`,
            figure: share,
            mend: 'Bring the layers’ normals to unit length, or make them from height.',
            at,
          },
        ]
      }),
}
export default normals
