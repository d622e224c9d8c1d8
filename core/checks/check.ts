import type { CheckSubject } from './subject'
import type { Mark } from './texels-where'

/** One thing found, and where in the map it shows. */
export interface Finding {
  readonly rule: string
  readonly severity: 'error' | 'warning'
  readonly channel?: string
  readonly file?: string
  readonly message: string
  readonly value: number
  readonly fix: string
  readonly marks?: readonly Mark[]
}

/** What was found, in words alone: where in the map it shows is found again when somebody looks. */
export type FindingWords = Pick<Finding, 'severity' | 'channel' | 'file' | 'message' | 'fix'>

/** One rule: what it looks for, and where its threshold comes from. */
export interface CheckRule {
  readonly name: string
  readonly title: string
  readonly reference: string
  /** True where it is about what repeats: on a part there is nothing to look for. */
  readonly ofTiles?: true
  /** True where it is about how a part is laid out: `part` of its subject is there. */
  readonly ofParts?: true
  /** True where it is about what lies together in files: `set` of its subject is there. */
  readonly ofSets?: true
  run(subject: CheckSubject): Omit<Finding, 'rule'>[]
  /** What was measured, in words, where nothing was found; null where there is nothing to measure. */
  measure?(subject: CheckSubject): string | null
}

/** The channels that a rule is about, as their descriptors say. */
export const channelsFor = ({ channels }: CheckSubject, rule: string): CheckSubject['channels'] =>
  channels.filter(({ channel }) => channel.checks?.includes(rule))

const concerns = ({ ofTiles, ofParts, ofSets }: CheckRule, { over, part, set }: CheckSubject): boolean =>
  !(ofTiles && over === 'part') && !(ofParts && part === undefined) && !(ofSets && set === undefined)

/** Runs every rule; errors first. */
export function runChecks(rules: readonly CheckRule[], subject: CheckSubject): Finding[] {
  return rules
    .filter((rule) => concerns(rule, subject))
    .flatMap((rule) => rule.run(subject).map((finding) => ({ rule: rule.name, ...finding })))
    .sort((a, b) => Number(a.severity === 'warning') - Number(b.severity === 'warning'))
}

/** A rule as a list tells it: what it found, or what it measured where all is well. */
export interface RuleResult {
  readonly name: string
  readonly title: string
  readonly reference: string
  readonly measured: string | null
  readonly findings: readonly Finding[]
}

/**
 * Every rule with what came of it: errors first, then warnings, then what is well. `pause` is called after each rule and may
 * throw to end it.
 */
export async function checkReport(
  rules: readonly CheckRule[],
  subject: CheckSubject,
  pause: () => Promise<void>,
): Promise<RuleResult[]> {
  const results: RuleResult[] = []
  for (const rule of rules.filter((one) => concerns(one, subject))) {
    const { name, title, reference } = rule
    const findings = runChecks([rule], subject)
    const measured = findings.length === 0 ? (rule.measure?.(subject) ?? null) : null
    results.push({ name, title, reference, measured, findings })
    await pause()
  }
  const weight = ({ findings }: RuleResult): number =>
    findings.some(({ severity }) => severity === 'error') ? 0 : findings.length > 0 ? 1 : 2
  return results.sort((a, b) => weight(a) - weight(b))
}
