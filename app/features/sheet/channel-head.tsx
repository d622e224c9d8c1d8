import { sameOutput } from '#core/texture/stage-output'
import { channelOutput } from '#core/document/address'
import { Plus } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import type { Channel } from '#core/document/channels'
import { OPTIONAL_CHANNELS, channelsOf, optionalChannel } from '#core/document/channels'
import { Button } from '../../ui/button'
import { Segments } from '../../ui/choice'
import { useActions, useDocument, useView } from '../../session/material'
import { CELL_WIDTH } from './sheet-layout'
import { Swatch } from '../../session/parts/swatch'

/** The result of one channel; choosing it shows it alone on the stage. */
export function ChannelHead({ channel, active }: { channel: Channel; active: boolean }) {
  const actions = useActions()
  const help = optionalChannel(channel.id)?.help
  const shown = useView((view) => sameOutput(view.stage.shown, channelOutput(channel.id)))
  return (
    <button
      type="button"
      role="columnheader"
      data-at={`head/${channel.id}`}
      tabIndex={active ? 0 : -1}
      aria-label={`${channel.title}, whole result${shown ? ', on the stage' : ''}`}
      title={`${channel.title}: show alone on the stage${help ? `. ${help}` : ''}`}
      onClick={() => actions.isolate(channel.id)}
      className="flex flex-col items-center gap-0.5 pt-1.5 pb-1 focus-visible:-outline-offset-2"
      style={{ width: CELL_WIDTH }}
    >
      <Swatch
        output={channelOutput(channel.id)}
        className={`size-9 rounded-sm ${shown ? 'ring-2 ring-accent ring-offset-2 ring-offset-panel' : ''}`}
      />
      <span
        className={`max-w-full truncate px-0.5 text-note ${shown ? 'font-semibold text-accent-ink' : 'text-ink-soft'}`}
      >
        {SHORT[channel.id] ?? channel.title}
      </span>
    </button>
  )
}

/** Words that fit over a column. */
const SHORT: Record<string, string> = {
  colour: 'Colour',
  roughness: 'Rough',
  metallic: 'Metal',
  occlusion: 'Occl.',
}

/** Adds a channel of the document's own. */
export function NewChannel() {
  const actions = useActions()
  const [open, setOpen] = useState(false)
  const [type, setType] = useState<'grey' | 'colour'>('grey')
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label="Add a channel"
        title="Add a channel of your own"
        className="grid size-5 place-items-center rounded hover:bg-ground hover:text-ink"
      >
        <Plus size={12} aria-hidden />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          aria-label="New channel"
          collisionPadding={8}
          className="z-40 flex max-h-[var(--radix-popover-content-available-height)] w-72 flex-col gap-3 overflow-auto rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
        >
          <form
            className="flex flex-col gap-2"
            onSubmit={(event) => {
              event.preventDefault()
              const title = String(new FormData(event.currentTarget).get('title')).trim()
              if (title === '') return
              actions.addChannel(title, type)
              setOpen(false)
            }}
          >
            <label className="flex flex-col gap-1">
              <span className="text-ink-soft">Name of the channel</span>
              <input
                name="title"
                required
                maxLength={40}
                autoFocus
                placeholder="Wetness"
                className="rounded border border-rule-strong bg-raised px-2 py-1"
              />
            </label>
            <Segments<'grey' | 'colour'>
              label="Kind"
              value={type}
              options={[
                { value: 'grey', word: 'grey' },
                { value: 'colour', word: 'colour' },
              ]}
              onChange={setType}
            />
            <Button variant="main" type="submit">
              Add channel
            </Button>
          </form>
          <KnownChannels onAdded={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** Channels that packings and the stage know by their names, as far as the material lacks them. */
function KnownChannels({ onAdded }: { onAdded(): void }) {
  const actions = useActions()
  const document = useDocument()
  const taken = new Set(channelsOf(document).map(({ id }) => id))
  const open = OPTIONAL_CHANNELS.filter(({ id }) => !taken.has(id))
  return [...new Set(open.map(({ use }) => use))].map((use) => (
    <section key={use} aria-label={`Channels for ${use}`} className="flex flex-col gap-1 border-t border-rule pt-2">
      <h4 className="text-ink-soft">For {use}</h4>
      <ul className="flex flex-wrap gap-1.5">
        {open
          .filter((one) => one.use === use)
          .map((channel) => (
            <li key={channel.id}>
              <Button
                title={channel.help}
                onClick={() => {
                  actions.addOptionalChannel(channel)
                  onAdded()
                }}
              >
                {channel.title}
              </Button>
            </li>
          ))}
      </ul>
    </section>
  ))
}
