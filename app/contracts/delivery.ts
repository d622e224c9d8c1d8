import type { MapTime } from '#core/texture/kept-file'
import type { DeliveryRecord } from '#core/texture/record'
import type { FindingWords } from '#core/checks/check'

/** A set of maps that was made, and can be downloaded. */
export interface Delivery {
  readonly id: string
  readonly documentId: string
  readonly document: string
  readonly revision: number
  readonly name: string
  readonly packing: string
  readonly width: number
  readonly height: number
  readonly files: number
  readonly bytes: number
  readonly createdAt: string
  /** Its number among the document’s; null of those made before they were counted. */
  readonly number: number | null
  /** How its files are written. */
  readonly forms: DeliveryRecord['files']
  readonly dither: boolean
  /** What each map took, and which were kept from before; none of those made before that was told. */
  readonly times: readonly MapTime[]
  /** What the check found; null where nobody asked for it. */
  readonly findings: readonly FindingWords[] | null
}
