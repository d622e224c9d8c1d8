import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'

/** A sound document with nothing in it but `members`. */
export const emptyDocument = (members: object = {}): MaterialDocument =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'Wall',
    domain: { kind: 'tile', metres: [1, 1] },
    ...members,
  })
