import { Plus, Trash2 } from 'lucide-react'
import { useRef, useState } from 'react'
import type { ProjectValue } from '../../contracts/project-value'
import { askJson } from '../../session/ask'
import { useLoadAgain } from '../../session/use-load-again'
import { Button, IconButton } from '../../ui/button'
import { ColourBox } from '../../ui/colour-field'
import { NumberBox } from '../../ui/number-box'
import { counted } from '../../ui/words'

/** Colours and numbers by name that materials of the project follow: changed here once. */
export function ProjectValues({ project, values }: { project: string; values: readonly ProjectValue[] }) {
  const loadAgain = useLoadAgain()
  const [problem, setProblem] = useState<string | null>(null)
  const [name, setName] = useState('')
  const send = async (method: 'PUT' | 'DELETE', body: object): Promise<void> => {
    try {
      const response = await askJson(`/projects/${project}/values`, method, body)
      setProblem(response.ok ? null : ((await response.json()) as { error: string }).error)
    } catch {
      setProblem('Cannot reach the server.')
    }
    await loadAgain()
  }
  const add = (value: string | number): void => {
    if (name.trim() === '') return setProblem('Give it a name first.')
    if (values.some((one) => one.name === name.trim())) return setProblem(`There is a value “${name.trim()}” already.`)
    void send('PUT', { name: name.trim(), value })
    setName('')
  }
  return (
    <section aria-label="Shared values" className="mt-8" id="values">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="text-head font-semibold">Shared values</h2>
        <input
          aria-label="Name of a new value"
          placeholder="Name"
          maxLength={120}
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="w-44 rounded border border-rule-strong bg-raised px-2 py-0.5"
        />
        <Button onClick={() => add('#b9b4a6')}>
          <Plus size={14} aria-hidden /> Colour
        </Button>
        <Button onClick={() => add(0.5)}>
          <Plus size={14} aria-hidden /> Number
        </Button>
        <span className="text-ink-soft">
          Used in many materials, changed once: in a material, press the gauge beside a setting and let it follow one.
        </span>
      </div>
      {problem && (
        <p role="alert" className="mb-2">
          ■ {problem}
        </p>
      )}
      <ul className="flex flex-wrap gap-2">
        {values.map((value) => (
          <ValueRow
            key={value.name}
            value={value}
            onSet={(next) => void send('PUT', { name: value.name, value: next })}
            onDelete={() => void send('DELETE', { name: value.name })}
          />
        ))}
      </ul>
    </section>
  )
}

function ValueRow({
  value: { name, value, followers },
  onSet,
  onDelete,
}: {
  value: ProjectValue
  onSet(value: string | number): void
  onDelete(): void
}) {
  /** While it is dragged; sent when it is let go. */
  const [dragged, setDragged] = useState<string | number | null>(null)
  const latest = useRef<string | number | null>(null)
  const drag = (next: string | number): void => {
    latest.current = next
    setDragged(next)
  }
  const drop = (): void => {
    const now = latest.current
    latest.current = null
    if (now !== null && now !== value) onSet(now)
    setDragged(null)
  }
  const shown = dragged ?? value
  return (
    <li aria-label={name} className="flex items-center gap-2 rounded border border-rule bg-panel px-2 py-1">
      <span className="font-semibold">{name}</span>
      {typeof shown === 'string' ? (
        <ColourBox label={name} value={shown} standard={String(value)} onDrag={drag} onDrop={drop} />
      ) : (
        <NumberBox
          label={name}
          min={-1e6}
          max={1e6}
          softRange={[0, 1]}
          standard={Number(value)}
          value={shown}
          onDrag={drag}
          onDrop={drop}
          className="w-24"
        />
      )}
      <span className="text-note text-ink-soft">
        {followers === 0
          ? 'nothing follows it'
          : `${counted(followers, 'material')} ${followers === 1 ? 'follows' : 'follow'} it`}
      </span>
      <IconButton icon={Trash2} word="Delete" of={name} onClick={onDelete} />
    </li>
  )
}
