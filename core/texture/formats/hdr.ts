import type { FileFormat } from '../file-format'
import { beginsWith } from '../file-format'

/** Source: Radiance picture format ("#?RADIANCE"), as its manual describes it. */
const hdr: FileFormat = {
  name: 'hdr',
  title: 'Radiance HDR',
  mime: 'image/vnd.radiance',
  isOf: (head) => beginsWith(head, 0x23, 0x3f),
  reader: 'hdr',
  lossy: false,
}
export default hdr
