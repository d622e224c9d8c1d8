import type { FileFormat } from '../file-format'
import { beginsWith } from '../file-format'

/** Source: WebP Container Specification (RIFF). */
const webp: FileFormat = {
  name: 'webp',
  title: 'WebP',
  mime: 'image/webp',
  isOf: (head) => beginsWith(head, 0x52, 0x49, 0x46, 0x46) && beginsWith(head.subarray(8), 0x57, 0x45, 0x42, 0x50),
  reader: 'native',
  lossy: true,
}
export default webp
