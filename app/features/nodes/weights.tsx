import { Gauge } from 'lucide-react'
import { useActions, useMaterial, useUndialled, useWeights } from '../../session/material'
import { unseenNodes } from '../../session/engine/weights'
import { nodeTitle } from '../../session/words/source-words'
import { weightInWords } from '../../session/words/weight-words'
import { Button } from '../../ui/button'
import { Menu, MenuItem, MenuRule } from '../../ui/menu'
import { counted } from '../../ui/words'

/** Widest preview that nodes are timed at. */
const WIDEST = 512

/** Measures what each node costs and changes, and names those whose going nobody would see. */
export function WeightsMenu() {
  const actions = useActions()
  const { weights, control, view } = useMaterial()
  const document = useUndialled()
  const { state, problem, of, total, byNode } = useWeights((found) => found)
  const measure = (): void => {
    void weights.measure(control.store.getState().document, Math.min(WIDEST, view.getState().width))
  }
  if (state === 'none')
    return (
      <Button title="Measures what each node costs, and how much it changes the material" onClick={measure}>
        <Gauge size={13} aria-hidden /> Costs
      </Button>
    )
  if (state === 'measuring')
    return (
      <Button title="Stop measuring" onClick={() => weights.clear()}>
        {Object.keys(byNode).length} of {total} · Cancel
      </Button>
    )
  const unseen = unseenNodes({ byNode }).filter((id) => document.nodes[id])
  return (
    <Menu
      trigger={
        <Button title="What nodes cost and change" className="border-accent">
          <Gauge size={13} aria-hidden /> Costs
        </Button>
      }
    >
      {problem && <p className="px-2 py-1">■ {problem}</p>}
      <p className="max-w-72 px-2 py-1 text-ink-soft">
        {unseen.length === 0
          ? 'Every node changes something that can be seen.'
          : `${counted(unseen.length, 'node')} could go unseen, one by one: under half a step of 8 bits.`}
      </p>
      {unseen.map((id) => (
        <MenuItem key={id} onSelect={() => actions.selectNodes([id])}>
          {nodeTitle(document, id)}
        </MenuItem>
      ))}
      <MenuRule />
      <MenuItem onSelect={measure}>Measure again{of === document ? '' : ', after what was changed since'}</MenuItem>
      <MenuItem onSelect={() => weights.clear()}>Hide the costs</MenuItem>
    </Menu>
  )
}

/** What a node costs and changes, on its card; null while that was not asked for. */
export function CardWeight({ id }: { id: string }) {
  const weight = useWeights(({ byNode }) => byNode[id])
  const stale = useWeights(({ of }) => of)
  const document = useUndialled()
  if (!weight) return null
  const { cost, change, channel } = weightInWords(weight, document)
  return (
    <p
      data-weight
      className={`truncate font-mono text-[10px] ${stale === document ? '' : 'text-ink-soft'}`}
      title={`Takes ${cost}. Without it ${channel ? `${channel} changes most: by ${change}, in the mean (RMS)` : 'nothing changes'}.${
        stale === document ? '' : ' Measured before the last edit.'
      }`}
    >
      {cost} · {change}
    </p>
  )
}
