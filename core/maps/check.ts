import type { Field } from '../field/field'
import type { Channel } from '../graph/channels'
import type { RecordFile } from './record'

/** One thing found. `at` is a place in the map, tile units, v down. */
export interface Finding {
  readonly rule: string
  readonly severity: 'error' | 'warning'
  readonly channel?: string
  readonly file?: string
  readonly message: string
  readonly figure: number
  readonly mend: string
  readonly at?: readonly [number, number]
}

/** A file as it was found on disk: what its record says and what it says of itself. */
export interface CheckedFile {
  readonly record: RecordFile
  /** True where the file marks itself as sRGB-encoded; null where its format has no such mark. */
  readonly marked: boolean | null
}

/** What is checked: channels as fields (decoded, as inside), and the files they came from, if any. */
export interface CheckSubject {
  readonly width: number
  readonly height: number
  readonly channels: readonly { channel: Channel; field: Field; steps: number }[]
  readonly files: readonly CheckedFile[]
}

/** One rule: what it looks for, and where its threshold comes from. */
export interface CheckRule {
  readonly name: string
  readonly title: string
  readonly source: string
  run(subject: CheckSubject): Omit<Finding, 'rule'>[]
}

/** Runs every rule; errors first. */
export function runChecks(rules: readonly CheckRule[], subject: CheckSubject): Finding[] {
  return rules
    .flatMap((rule) => rule.run(subject).map((finding) => ({ rule: rule.name, ...finding })))
    .sort((a, b) => Number(a.severity === 'warning') - Number(b.severity === 'warning'))
}
