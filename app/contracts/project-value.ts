import type { SharedValue } from '#core/document/edits/shared-values'

/** A colour or number of a project, and how many of its materials follow it. */
export interface ProjectValue extends SharedValue {
  readonly followers: number
}
