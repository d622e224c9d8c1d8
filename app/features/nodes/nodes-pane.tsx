import { ReactFlowProvider } from '@xyflow/react'
import { LayoutGrid, Plus } from 'lucide-react'
import { startTransition, useEffect, useMemo, useState } from 'react'
import { unusedNodes } from '#core/document/edits/nodes'
import type { MaterialDocument } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../../ui/button'
import { Menu, MenuItem, MenuRule } from '../../ui/menu'
import { counted } from '../../ui/words'
import { useActions, useEvaluation, useUndialled, useView } from '../../session/material'
import { nodeTitle, placeInWords } from '../../session/words/source-words'
import type { Places } from './cards'
import { tidied } from './cards'
import { Flow } from './flow'
import type { NodeGraph } from './node-graph'
import { nodeGraph } from './node-graph'
import { WeightsMenu } from './weights'

/** The nodes behind what is chosen. */
export function NodesPane() {
  const actions = useActions()
  const document = useUndialled()
  const place = useView((view) => view.selection)
  const whole = useView((view) => view.wholeGraph)
  const graph = useMemo(() => nodeGraph(document, registry, place, whole), [document, place, whole])
  const drawn = useAfterFirstPicture()
  return (
    <section aria-label="Nodes" className="flex h-full min-h-0 flex-col bg-panel" data-guide="nodes">
      <header className="flex h-10 shrink-0 items-center gap-2 border-y border-rule px-3">
        <h2 className="font-semibold">Nodes</h2>
        <span className="min-w-0 truncate">{place ? placeInWords(document, place) : 'the whole material'}</span>
        <span className="min-w-0 flex-1 truncate font-mono text-note text-ink-soft">
          {counted(graph.nodes.length, 'node')}
        </span>
        <Button onClick={() => actions.openPalette({ kind: 'nodes' })} data-guide="add-node">
          <Plus size={13} aria-hidden /> Node
        </Button>
        <UnusedNodes document={document} />
        {graph.nodes.length > 0 && <WeightsMenu />}
        <TidyButton graph={graph} document={document} />
        <Button
          aria-pressed={whole}
          onClick={() => actions.setView({ wholeGraph: !whole })}
          className="aria-pressed:bg-ink aria-pressed:text-ground"
        >
          Whole graph
        </Button>
      </header>
      {drawn && (
        <ReactFlowProvider>
          <Flow graph={graph} />
        </ReactFlowProvider>
      )}
    </section>
  )
}

/** Lays cards out along their wires, and back to where they were: where cards stand is no step of undo. */
function TidyButton({ graph, document }: { graph: NodeGraph; document: MaterialDocument }) {
  const actions = useActions()
  const [undone, setUndone] = useState<{ readonly before: Places; readonly after: Places } | null>(null)
  const stands = (places: Places): boolean =>
    [...places].every(([id, at]) => !document.nodes[id] || String(document.nodes[id].at) === String(at))
  // Only where they are seen, and still stand as they were laid out.
  const seen = undone !== null && [...undone.after.keys()].every((id) => graph.nodes.includes(id))
  const back = seen && stands(undone.after) ? undone.before : null
  const tidy = (): void => {
    const after = new Map([...tidied(graph, document)].filter(([id]) => document.nodes[id]))
    const before = new Map(
      [...after].flatMap(([id]) => (document.nodes[id]!.at ? [[id, document.nodes[id]!.at!] as const] : [])),
    )
    actions.placeNodes(after)
    setUndone(before.size > 0 ? { before, after } : null)
  }
  return back ? (
    <Button title="Puts the cards back where they were" onClick={() => actions.placeNodes(back)}>
      <LayoutGrid size={13} aria-hidden /> Places back
    </Button>
  ) : (
    <Button title="Lays the shown nodes out along their wires" disabled={graph.nodes.length === 0} onClick={tidy}>
      <LayoutGrid size={13} aria-hidden /> Tidy
    </Button>
  )
}

/** How many nodes nothing uses, and which. */
function UnusedNodes({ document }: { document: MaterialDocument }) {
  const actions = useActions()
  const unused = useMemo(() => unusedNodes(document), [document])
  if (unused.length === 0) return null
  return (
    <Menu trigger={<Button title="Nodes that no cell, mask or named result reads">{unused.length} unused</Button>}>
      {unused.map((id) => (
        <MenuItem key={id} onSelect={() => actions.selectNodes([id])}>
          {nodeTitle(document, id)}
        </MenuItem>
      ))}
      <MenuRule />
      <MenuItem onSelect={() => actions.deleteNodes(unused)}>Delete {counted(unused.length, 'unused node')}</MenuItem>
    </Menu>
  )
}

/** Whether the first picture has been drawn: many cards take a third of a second, and it comes before them. */
function useAfterFirstPicture(): boolean {
  const made = useEvaluation(({ state }) => state !== 'waiting')
  const [drawn, setDrawn] = useState(made)
  useEffect(() => {
    if (!made) return
    // The frame after the next: a picture is drawn with the next one.
    let frame = requestAnimationFrame(() => {
      frame = requestAnimationFrame(() => startTransition(() => setDrawn(true)))
    })
    return () => cancelAnimationFrame(frame)
  }, [made])
  return drawn
}
