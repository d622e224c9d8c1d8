import { channelOutput } from '#core/document/address'
import { useDraggable } from '@dnd-kit/core'
import { useActions } from '../../session/material'
import { Swatch } from '../../session/parts/swatch'
import { useChannels } from './maps'
import type { Carried } from './files'

/** The material's channels, to be dragged into files; pressed, one is shown on the stage. */
export function ChannelTray() {
  const channels = useChannels()
  return (
    <div className="flex shrink-0 flex-wrap items-start gap-1 border-b border-rule px-3 py-1.5" data-guide="tray">
      {channels.map(({ id, title }) => (
        <Chip key={id} id={id} title={title} />
      ))}
    </div>
  )
}

function Chip({ id, title }: { id: string; title: string }) {
  const actions = useActions()
  const carried: Carried = { kind: 'channel', channel: id, title }
  const { setNodeRef, listeners } = useDraggable({ id: `channel ${id}`, data: carried })
  return (
    <button
      ref={setNodeRef}
      type="button"
      {...listeners}
      title={`${title}: drag it into a file, press to see it on the stage`}
      onClick={() => actions.setStage({ shown: channelOutput(id), mode: 'flat' })}
      className="flex w-[4.1rem] shrink-0 touch-none flex-col items-center gap-0.5 rounded-md border border-transparent py-0.5 hover:border-rule-strong"
    >
      <Swatch output={channelOutput(id)} className="size-7 rounded-sm" />
      <span className="w-full px-0.5 text-center text-note leading-tight text-ink-soft">{title}</span>
    </button>
  )
}
