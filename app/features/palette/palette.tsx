import { Command } from 'cmdk'
import { Dialog } from 'radix-ui'
import { allLayers } from '#core/document/document'
import { channelsOf } from '#core/document/channels'
import { registry } from '#core/nodes/registry.generated'
import { useTheme } from '../../ui/theme'
import { NodeHelp, NodeList } from './node-list'
import { scoreOf } from './score'
import { useActions, useDocument, useMaterial, useView } from '../../session/material'
import { focusNode } from '../../session/keyboard-focus'
import { nodeTitle } from '../../session/words/source-words'
import type { CommandEntry } from '../../session/commands'
import { commandsFor } from './commands'
import { SHORTCUTS } from './shortcuts'

const PANEL =
  'fixed top-[12vh] left-1/2 z-50 flex max-h-[72vh] max-w-[94vw] -translate-x-1/2 flex-col overflow-hidden rounded-lg border border-rule-strong bg-panel shadow-xl'

/** A screen's own commands. */
export type CommandsOf = (other: 'linen' | 'soot', setTheme: (theme: 'linen' | 'soot') => void) => CommandEntry[]

/** Everything that opens over the screen: the finder, the node list, help. `commands` are another screen's. */
export function Overlays({ commands }: { commands?: CommandsOf }) {
  const finder = useView((view) => view.palette)
  const help = useView((view) => view.help)
  const { view } = useMaterial()
  const node = help && typeof help === 'object' ? registry.get(help.node) : undefined
  return (
    <>
      <Dialog.Root open={finder !== null} onOpenChange={(open) => !open && view.setState({ palette: null })}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
          <Dialog.Content
            aria-describedby={undefined}
            className={`${PANEL} ${finder?.kind === 'nodes' ? 'h-[56vh] w-[46rem]' : 'w-[36rem]'}`}
          >
            <Dialog.Title className="sr-only">{finder?.kind === 'nodes' ? 'Add a node' : 'Find or do'}</Dialog.Title>
            {finder?.kind === 'nodes' && <NodeList finder={finder} />}
            {finder?.kind === 'commands' && (commands ? <Commands commands={commands} /> : <FindOrDo />)}
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
      <Dialog.Root open={help !== null} onOpenChange={(open) => !open && view.setState({ help: null })}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
          <Dialog.Content aria-describedby={undefined} className={`${PANEL} w-[44rem] overflow-auto p-5`}>
            <Dialog.Title className={node ? 'sr-only' : 'mb-3 text-base font-semibold'}>
              {node ? `About ${node.title}` : 'Shortcuts'}
            </Dialog.Title>
            {node ? <NodeHelp node={node} /> : <Shortcuts />}
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  )
}

function Shortcuts() {
  return (
    <div className="gap-6 sm:columns-2">
      {SHORTCUTS.map(({ where, keys }) => (
        <section key={where} className="mb-4 break-inside-avoid">
          <h3 className="mb-1 font-semibold">{where}</h3>
          <dl>
            {keys.map(([key, does]) => (
              <div key={key} className="grid grid-cols-[8.5rem_1fr] gap-2 border-t border-rule py-0.5">
                <dt className="font-mono text-note">{key}</dt>
                <dd className="text-ink-soft">{does}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </div>
  )
}

/** Every command, node, layer, channel, image and dial by its words. */
function FindOrDo() {
  const material = useMaterial()
  const actions = useActions()
  const document = useDocument()
  const [theme, setTheme] = useTheme()
  const other = theme === 'linen' ? 'soot' : 'linen'
  const entries = [
    ...commandsFor(material, other, setTheme).map((one) => ({ group: 'Do', keywords: '', ...one })),
    ...[...allLayers(document.layers)].map((layer) => ({
      group: 'Layers',
      words: layer.name,
      keys: layer.kind,
      keywords: layer.id,
      run: () => actions.select({ kind: 'layer', layer: layer.id }),
    })),
    ...channelsOf(document).map((channel) => ({
      group: 'Channels',
      words: channel.title,
      keys: channel.type,
      keywords: channel.id,
      run: () => actions.isolate(channel.id),
    })),
    ...document.dials.map((dial) => ({
      group: 'Dials',
      words: dial.label,
      keys: dial.section,
      keywords: dial.id,
      run: () => {
        actions.setView({ tab: 'dials' })
        requestAnimationFrame(() =>
          window.document.querySelector<HTMLElement>(`[aria-label=${JSON.stringify(dial.label)}]`)?.focus(),
        )
      },
    })),
    ...Object.entries(document.nodes).map(([id, node]) => ({
      group: 'Nodes in this material',
      words: nodeTitle(document, id),
      keys: registry.get(node.type)?.title,
      keywords: `${id} ${node.type}`,
      run: () => {
        actions.setView({ wholeGraph: true })
        actions.selectNodes([id])
      },
    })),
    ...[...registry.values()]
      .filter((node) => node.family !== 'conversion')
      .map((node) => ({
        group: 'Add a node',
        words: `Add ${node.title}`,
        keys: node.family as string,
        keywords: [node.type, node.summary, ...node.keywords].join(' '),
        run: () => {
          const id = actions.addNode(node.type)
          if (id !== null) focusNode(id)
        },
      })),
    ...material.assets.map((asset) => ({
      group: 'Images',
      words: `Add ${asset.name}`,
      keys: `${asset.width} × ${asset.height}`,
      keywords: 'image picture',
      run: () => void actions.addNode('image', { params: { image: `sha256:${asset.sha256}` } }),
    })),
  ]
  return <Finder entries={entries} />
}

/** The commands of a screen without layers and nodes. */
function Commands({ commands }: { commands: CommandsOf }) {
  const [theme, setTheme] = useTheme()
  const entries = commands(theme === 'linen' ? 'soot' : 'linen', setTheme)
  return <Finder entries={entries.map((one) => ({ group: 'Do', keywords: '', ...one }))} />
}

function Finder({ entries }: { entries: readonly (CommandEntry & { group: string; keywords: string })[] }) {
  const { view } = useMaterial()
  const groups = [...new Set(entries.map(({ group }) => group))]
  return (
    <Command
      label="Find or do"
      filter={(value, search, keywords) =>
        scoreOf(`${value} ${(keywords ?? []).join(' ')}`, value.slice(value.indexOf(' ') + 1), search)
      }
      className="flex min-h-0 flex-1 flex-col"
    >
      <Command.Input
        autoFocus
        placeholder="Find a layer, dial or node, or say what to do …"
        className="border-b border-rule bg-transparent px-3 py-2.5 outline-none"
      />
      <Command.List className="min-h-0 flex-1 overflow-auto p-1.5">
        <Command.Empty className="p-3 text-ink-soft">Nothing is called like that.</Command.Empty>
        {groups.map((group, g) => (
          <Command.Group
            key={group}
            heading={group}
            className="[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-note [&_[cmdk-group-heading]]:text-ink-soft"
          >
            {entries
              .filter((entry) => entry.group === group)
              .map((entry, i) => (
                <Command.Item
                  key={`${entry.words} ${i}`}
                  value={`${g}.${i} ${entry.words}`}
                  keywords={[entry.keywords, group]}
                  onSelect={() => {
                    view.setState({ palette: null })
                    entry.run()
                  }}
                  className="flex cursor-default items-center gap-2 rounded px-2 py-1 data-[selected=true]:bg-ground"
                >
                  <span className="min-w-0 flex-1 truncate">{entry.words}</span>
                  <span className="font-mono text-note text-ink-soft">{entry.keys}</span>
                </Command.Item>
              ))}
          </Command.Group>
        ))}
      </Command.List>
    </Command>
  )
}
