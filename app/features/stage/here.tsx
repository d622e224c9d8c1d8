import { Popover } from 'radix-ui'
import { useState } from 'react'
import { linearToHex } from '#core/colour/srgb'
import { findLayer, findPlain } from '#core/document/edits/layers'
import { channelsOf } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { topmostOf } from '#core/document/layers-at'
import type { StageOutput } from '#core/texture/stage-output'
import type { PlaceFound } from '../../../runtime/browser/protocol'
import type { Selection } from '../../session/view'
import { Button } from '../../ui/button'
import { useActions, useMaterial, useUndialled } from '../../session/material'
import { shownInWords } from './shown-in-words'
import type { StageUv } from './stage-places.client'

/** A place that was asked about: in pixels of the stage, and on the tile. */
export interface Asked {
  readonly x: number
  readonly y: number
  readonly found: PlaceFound
  /** The channel whose layers are meant. */
  readonly channel: string
  readonly colour: string | null
}

/** The channel whose layers a place is asked for: that of what is shown, else the base colour. */
const channelOf = (shown: StageOutput | null): string => (shown && 'channel' in shown ? shown.channel : 'colour')

/** Asks what lies at a place, and chooses the topmost layer that shows there. */
export function useAsk(): {
  asked: Asked | null
  ask: (at: { x: number; y: number }, uv: StageUv, shown: StageOutput | null) => Promise<void>
  close: () => void
} {
  const actions = useActions()
  const { evaluation, control } = useMaterial()
  const [asked, setAsked] = useState<Asked | null>(null)
  return {
    asked,
    close: () => setAsked(null),
    ask: async (at, { view, u, v }, shown) => {
      const channel = channelOf(shown)
      const output = shown && shown.kind !== 'file' && shown.kind !== 'slot' ? shown : null
      const [found, values] = await Promise.all([
        evaluation.placeAt(view, { u, v, channel, shown: output }),
        evaluation.probe(view, u, v),
      ])
      if ('error' in found) return found.cancelled ? undefined : actions.notify(found.error)
      const colour = values.find((one) => one.channel === 'colour')
      setAsked({ ...at, found, channel, colour: colour ? linearToHex(colour.values) : null })
      const top = topmostOf(found.layers)
      if (top && view === 'shown') actions.select(placeOf(control.store.getState().document, top.layer, channel))
    },
  }
}

/** A layer's cell of a channel; the layer where it has none there. */
const placeOf = (document: MaterialDocument, layer: string, channel: string): Selection =>
  findPlain(document, layer)?.cells[channel] ? { kind: 'cell', layer, channel } : { kind: 'layer', layer }

/** What lies where the stage was pressed: the value of what is shown, and the layers, top first. */
export function Here({ asked, shown, onClose }: { asked: Asked; shown: StageOutput | null; onClose: () => void }) {
  const actions = useActions()
  const document = useUndialled()
  const { found, channel, colour } = asked
  const title = channelsOf(document).find(({ id }) => id === channel)?.title ?? channel
  const top = topmostOf(found.layers)
  const value = found.shown && inWords(found.shown)
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor className="pointer-events-none absolute size-0" style={{ left: asked.x, top: asked.y }} />
      <Popover.Portal>
        <Popover.Content
          aria-label="What lies here"
          sideOffset={8}
          collisionPadding={8}
          className="z-40 flex w-64 flex-col gap-2 rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
        >
          {value && <Taken what={shownInWords(document, shown!)} text={value} />}
          {!value && colour && <Taken what="base colour" text={colour} swatch={colour} />}
          <h3 className="font-semibold">Layers here, in {title.toLowerCase()}</h3>
          {found.layers.length === 0 && <p className="text-ink-soft">No layer puts anything in here.</p>}
          <ol aria-label="Layers here" className="flex flex-col">
            {found.layers.map(({ layer, covers, shows }) => (
              <li key={layer}>
                <button
                  type="button"
                  aria-current={top?.layer === layer}
                  title={`Covers ${percent(covers)}; ${percent(shows)} shows`}
                  onClick={() => {
                    actions.select(placeOf(document, layer, channel))
                    onClose()
                  }}
                  className="relative flex w-full items-center gap-2 rounded px-1.5 py-1 text-left hover:bg-ground aria-current:font-semibold"
                >
                  <span className="min-w-0 flex-1 truncate">{findLayer(document, layer)?.name ?? layer}</span>
                  <span aria-hidden className="h-1.5 w-14 overflow-hidden rounded-full bg-ground">
                    <span className="block h-full rounded-full bg-ink-soft" style={{ width: `${shows * 100}%` }} />
                  </span>
                  <span className="w-12 text-right whitespace-nowrap font-mono text-note">{percent(shows)}</span>
                </button>
              </li>
            ))}
          </ol>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** A value, and a button that copies it. */
function Taken({ what, text, swatch }: { what: string; text: string; swatch?: string }) {
  const actions = useActions()
  return (
    <p className="flex items-center gap-2">
      {swatch && <span className="size-4 rounded-sm border border-rule-strong" style={{ background: swatch }} />}
      <span className="min-w-0 flex-1">
        <span className="block truncate text-ink-soft">{what}</span>
        <span className="font-mono">{text}</span>
      </span>
      <Button
        onClick={() => {
          void navigator.clipboard.writeText(text)
          actions.notify(`${text} is on the clipboard.`)
        }}
      >
        Copy
      </Button>
    </p>
  )
}

const percent = (ratio: number): string => `${Math.round(ratio * 100)} %`

const inWords = ({ type, values }: NonNullable<PlaceFound['shown']>): string =>
  type === 'colour' ? linearToHex(values) : values.map((v) => String(Number(v.toFixed(4)))).join(' ')
