import { titleOf, typeTitle } from '#core/graph/titles'
import { Command } from 'cmdk'
import { Copy } from 'lucide-react'
import { clipNodes } from '#core/document/edits/clip'
import { exampleDocument } from '#core/graph/example-document'
import { writeClipboard } from '../../session/clipboard'
import { Button } from '../../ui/button'
import { useEffect, useMemo, useState } from 'react'
import type { DisplayBytes } from '#core/preview/display'
import type { AnyNode } from '#core/graph/define-node'
import { FAMILIES } from '#core/graph/families'
import { fittingNodes } from '#core/graph/port-types'
import { registry } from '#core/nodes/registry.generated'
import { Picture } from '../../ui/picture'
import { useActions, useDocument, useMaterial } from '../../session/material'
import { focusNode } from '../../session/keyboard-focus'
import { typeAt } from '../../session/places'
import type { PaletteState } from '../../session/view'
import { scoreOf } from './score'

interface Offer {
  readonly key: string
  readonly node: AnyNode
  readonly title: string
  readonly params?: Readonly<Record<string, unknown>>
  readonly words: readonly string[]
  readonly converted: boolean
}

/** What can be added: what fits a loose wire or a place comes first, best first; presets are found by their own names. */
function offersFor(finder: Extract<PaletteState, { kind: 'nodes' }>, into: ReturnType<typeof typeAt> | null): Offer[] {
  const { wire } = finder
  const fitting = wire
    ? fittingNodes(registry, wire.type, wire.loose)
    : into
      ? fittingNodes(registry, into, 'output')
      : null
  const nodes = fitting
    ? fitting.map(({ node, converted }) => ({ node, converted }))
    : FAMILIES.flatMap((family) =>
        [...registry.values()].filter((node) => node.family === family && family !== 'conversion'),
      ).map((node) => ({ node, converted: false }))
  return nodes.flatMap(({ node, converted }) => [
    {
      key: node.type,
      node,
      title: node.title,
      words: [node.type, node.family, node.summary, ...node.keywords],
      converted,
    },
    ...(node.presets ?? []).map((preset) => ({
      key: `${node.type} ${preset.title}`,
      node,
      title: preset.title,
      params: preset.params,
      words: [node.title, ...preset.keywords],
      converted,
    })),
  ])
}

/** The searchable list of nodes, each with its picture, and the help of the one under the cursor. */
export function NodeList({ finder }: { finder: Extract<PaletteState, { kind: 'nodes' }> }) {
  const actions = useActions()
  const document = useDocument()
  const into = finder.into ? typeAt(document, finder.into) : null
  const offers = useMemo(() => offersFor(finder, into), [finder, into])
  const [at, setAt] = useState(offers[0]?.key ?? '')
  const current = offers.find((offer) => offer.key === at)
  const about = finder.wire
    ? `What fits ${finder.wire.loose === 'input' ? 'the output' : 'the input'} of a ${finder.wire.type} wire, best first`
    : into
      ? `What can give ${into}, best first`
      : 'All nodes'
  return (
    <Command
      label="Add a node"
      value={at}
      onValueChange={setAt}
      filter={(value, search, keywords) => scoreOf(`${value} ${(keywords ?? []).join(' ')}`, value, search)}
      className="flex min-h-0 flex-1 flex-col"
    >
      <Command.Input
        autoFocus
        placeholder="Find a node: noise, threshold, soften …"
        className="border-b border-rule bg-transparent px-3 py-2 outline-none"
      />
      <p className="px-3 pt-1.5 text-note text-ink-soft">{about}</p>
      <div className="flex min-h-0 flex-1">
        <Command.List className="w-64 shrink-0 overflow-auto p-1.5">
          <Command.Empty className="p-2 text-ink-soft">No node is called or described like that.</Command.Empty>
          {offers.map((offer) => (
            <Command.Item
              key={offer.key}
              value={offer.key}
              keywords={[offer.title, ...offer.words]}
              onSelect={() => {
                const id = actions.addNode(offer.node.type, { ...finder, params: offer.params })
                if (id !== null) focusNode(id)
              }}
              className="flex cursor-default items-center gap-2 rounded px-1.5 py-1 data-[selected=true]:bg-ground"
            >
              <ExamplePicture type={offer.node.type} className="size-7 shrink-0 rounded-sm" />
              <span className="min-w-0 flex-1 truncate">{offer.title}</span>
              <span className="text-note text-ink-soft">
                {offer.converted ? 'converts' : offer.params ? offer.node.title : offer.node.family}
              </span>
            </Command.Item>
          ))}
        </Command.List>
        {current && (
          <div className="min-w-0 flex-1 overflow-auto border-l border-rule p-3">
            <NodeHelp node={current.node} />
          </div>
        )}
      </div>
    </Command>
  )
}

/** What a node does, with its picture: what goes in, what comes out, what can be set. */
export function NodeHelp({ node }: { node: AnyNode }) {
  return (
    <article aria-label={`About ${node.title}`} className="flex flex-col gap-2">
      <div className="flex gap-3">
        <ExamplePicture type={node.type} className="size-24 shrink-0 rounded" />
        <div>
          <h3 className="font-semibold">{node.title}</h3>
          <p className="text-ink-soft">{node.summary}</p>
          <CopyExample node={node} />
        </div>
      </div>
      <Described
        title="Inputs"
        entries={Object.entries(node.inputs).map(([name, port]) => [
          titleOf(name, port),
          typeTitle(port.type),
          port.help,
        ])}
      />
      <Described
        title="Outputs"
        entries={Object.entries(node.outputs).map(([name, port]) => [
          titleOf(name, port),
          typeTitle(port.type),
          port.help,
        ])}
      />
      <Described
        title="Parameters"
        entries={Object.entries(node.params).map(([name, parameter]) => [
          titleOf(name, parameter),
          parameter.unit ?? parameter.options?.join(', ') ?? '',
          parameter.help,
        ])}
      />
    </article>
  )
}

/** Puts the nodes of the picture on the clipboard, ready to be pasted among others; images of an example are nobody's. */
function CopyExample({ node }: { node: AnyNode }) {
  const actions = useActions()
  if (node.example.images) return null
  const document = exampleDocument(node)
  const copy = (): void => {
    void writeClipboard(clipNodes(document, Object.keys(document.nodes)), actions.notify)
    actions.notify(`The example of ${node.title} is on the clipboard; paste it among the nodes (Ctrl V).`)
  }
  return (
    <Button className="mt-1" title="The nodes of this picture, to paste" onClick={copy}>
      <Copy size={13} aria-hidden /> Copy the example
    </Button>
  )
}

function Described({ title, entries }: { title: string; entries: readonly (readonly [string, string, string])[] }) {
  if (entries.length === 0) return null
  return (
    <section>
      <h4 className="text-note font-semibold text-ink-soft">{title}</h4>
      <dl>
        {entries.map(([name, word, help]) => (
          <div key={name}>
            <dt className="inline font-semibold">{name}</dt>{' '}
            <span className="font-mono text-note text-ink-soft">{word}</span>
            <dd className="inline"> {help}</dd>
          </div>
        ))}
      </dl>
    </section>
  )
}

const pictures = new Map<string, Promise<DisplayBytes | null>>()

/** The picture of a node's example, made once. */
function ExamplePicture({ type, className }: { type: string; className: string }) {
  const { evaluation } = useMaterial()
  const [picture, setPicture] = useState<DisplayBytes>()
  useEffect(() => {
    let wanted = true
    const made = pictures.get(type) ?? evaluation.example(type)
    pictures.set(type, made)
    void made.then((found) => {
      if (wanted && found) setPicture(found)
    })
    return () => {
      wanted = false
    }
  }, [type, evaluation])
  return <Picture picture={picture} className={className} />
}
