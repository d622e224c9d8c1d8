import type { CheckSubject } from '../subject'
import type { CheckRule } from '../check'
import { engineMemory } from '../../texture/engine-memory'

const LIMIT = 128 << 20

const megabytes = (bytes: number): string => `${(bytes / 1048576).toFixed(1)} MB`

/** What the set will take on a graphics card. */
const memory: CheckRule = {
  name: 'engine-memory',
  title: 'Memory in the engine',
  reference:
    'Khronos Data Format Specification 1.3, chapter 18 (bytes of a block), with mips; 128 MB a set: own choice.',
  run: ({ files, width, height }) => {
    const { plain, blocks } = sums(files, width, height)
    if (blocks <= LIMIT) return []
    return [
      {
        severity: 'warning',
        message: `The set takes ${megabytes(blocks)} in blocks with its mips, ${megabytes(plain)} as plain texels.`,
        value: blocks,
        fix: 'Deliver it smaller, or pack greys together into the channels of one file.',
      },
    ]
  },
  measure: ({ files, width, height }) => {
    if (files.length === 0) return null
    const { plain, blocks } = sums(files, width, height)
    return `${megabytes(blocks)} in blocks with mips, ${megabytes(plain)} as plain texels`
  },
}

function sums(files: CheckSubject['files'], width: number, height: number): { plain: number; blocks: number } {
  const each = files.map(({ record }) => engineMemory(record, width, height))
  return {
    plain: each.reduce((sum, { plain }) => sum + plain, 0),
    blocks: each.reduce((sum, { plain, blocks }) => sum + (blocks ?? plain), 0),
  }
}
export default memory
