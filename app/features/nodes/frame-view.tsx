import type { NodeProps } from '@xyflow/react'
import { useActions, useUndialled, useView } from '../../session/material'
import { RenameInput } from '../../ui/rename-input'
import type { CardSize } from './card-size'

export interface FrameData extends Record<string, unknown> {
  readonly frame: string
  readonly size: CardSize
}

/** Room between a frame and the cards in it, and for its name above them. */
export const FRAME = { around: 12, title: 24 } as const
/** Cards of frames are named so. */
export const FRAME_CARD = 'frame:'

/** A frame around nodes that belong together; dragged by its name, with them. */
export function FrameView({ data }: NodeProps) {
  const { frame, size } = data as FrameData
  const actions = useActions()
  const name = useUndialled().frames[frame]?.name ?? ''
  const renaming = useView((view) => view.renamingFrame === frame)
  const end = (): void => actions.setView({ renamingFrame: null })
  return (
    <section
      aria-label={`Frame ${name}`}
      className="rounded-lg border border-rule-strong bg-ground/60"
      style={{ width: size.width, height: size.height }}
    >
      <div
        className="pointer-events-auto flex cursor-grab items-center px-2 font-semibold"
        style={{ height: FRAME.title }}
        onDoubleClick={(event) => {
          event.stopPropagation()
          actions.setView({ renamingFrame: frame })
        }}
      >
        {renaming ? (
          <RenameInput
            label="Name of the frame"
            name={name}
            onName={(next) => actions.renameFrame(frame, next)}
            onEnd={end}
            className="nodrag w-full px-1"
          />
        ) : (
          <span className="truncate text-[15px]">{name}</span>
        )}
      </div>
    </section>
  )
}
