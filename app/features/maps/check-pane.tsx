import { channelOutput } from '#core/document/address'
import type { Finding, RuleResult } from '#core/checks/check'
import { Button } from '../../ui/button'
import { useActions, useEvaluation } from '../../session/material'
import { useChannels, useMaps, useMapsView } from './maps'

/** What the check found, and what it measured where all is well. */
export function CheckPane() {
  const report = useEvaluation((one) => one.packing.report)
  const problem = useEvaluation((one) => one.packing.problem)
  if (problem)
    return (
      <p role="alert" className="m-3">
        ■ The files cannot be made: {problem}
      </p>
    )
  if (!report)
    return (
      <p role="status" className="m-3 text-ink-soft">
        ◌ The files are being checked …
      </p>
    )
  return (
    <ul aria-label="Findings" className="divide-y divide-rule">
      {report.map((result) => (
        <Rule key={result.name} result={result} />
      ))}
    </ul>
  )
}

/** How many things there are to look at, of how many rules. */
export function useFindings(): { total: number; rules: number } | null {
  const report = useEvaluation((one) => one.packing.report)
  return report && { total: report.reduce((sum, { findings }) => sum + findings.length, 0), rules: report.length }
}

function Rule({ result: { title, reference, measured, findings } }: { result: RuleResult }) {
  if (findings.length === 0)
    return (
      <li className="grid grid-cols-[1.25rem_1fr] items-baseline px-3 py-1.5" title={reference}>
        <span aria-label="well">●</span>
        <span>
          {title}
          {measured && <span className="block text-note text-ink-soft">{measured}</span>}
        </span>
      </li>
    )
  return findings.map((finding, i) => <Found key={i} title={title} source={reference} finding={finding} />)
}

function Found({ title, source, finding }: { title: string; source: string; finding: Finding }) {
  const { view } = useMaps()
  const actions = useActions()
  const channels = useChannels()
  const marked = useMapsView((one) => one.marked)
  const { severity, channel, file, message, fix, marks } = finding
  const words = `${title}: ${[channels.find(({ id }) => id === channel)?.title ?? file, message].filter(Boolean).join(' ')}`
  const on = marked?.words === words
  const show = (): void => {
    if (on) return view.setState({ marked: null })
    const map = file?.replace(/\.[^.]*$/, '')
    const shown = channel ? channelOutput(channel) : map ? ({ kind: 'file', map } as const) : null
    actions.setStage({ shown, mode: 'flat', repeat: 1 })
    view.setState({ marked: { words, marks: marks ?? [] } })
  }
  return (
    <li className="grid grid-cols-[1.25rem_1fr_auto] items-baseline gap-x-1 px-3 py-1.5" title={source}>
      <span aria-label={severity}>{severity === 'error' ? '■' : '▲'}</span>
      <span>
        <span className="font-semibold">{title}</span>
        <span className="block">
          {channel && <span className="text-ink-soft">{channels.find(({ id }) => id === channel)?.title} </span>}
          {!channel && file && <span className="text-ink-soft">{file} </span>}
          {message}
        </span>
        <span className="block text-note text-ink-soft">{fix}</span>
      </span>
      {(channel ?? file) && (
        <Button aria-pressed={on} className="py-0.5" onClick={show} aria-label={`Show ${words}`}>
          {on ? 'Hide' : 'Show'}
        </Button>
      )}
    </li>
  )
}
