import { formatNamed } from '../../texture/format-registry'
import type { CheckRule } from '../check'

/** A lossy format is for pictures that are looked at; data is computed with. */
const lossyData: CheckRule = {
  name: 'lossy-data',
  title: 'Data is kept exactly',
  reference:
    'ITU-T T.81 (JPEG), annex A.3.4: values are rounded in blocks of 8 × 8, which shows as squares in light; ' +
    'common practice: never for normals, roughness or masks.',
  run: ({ files }) =>
    files
      .filter(({ record }) => formatNamed(record.format)?.lossy && record.transfer === 'raw')
      .map(({ record }) => ({
        severity: 'warning',
        file: record.name,
        message: `holds data as ${formatNamed(record.format)!.title}, which changes its values.`,
        value: 1,
        fix: 'Deliver it as PNG.',
      })),
}
export default lossyData
