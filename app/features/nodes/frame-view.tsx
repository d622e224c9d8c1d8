import type { NodeProps } from '@xyflow/react'
import { useStore } from '@xyflow/react'
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

/** Pixels of a frame's name on screen, and the most on the canvas. */
const READABLE = 12
const LARGEST = 30

/** A frame around nodes that belong together; dragged by its name, with them. */
export function FrameView({ data }: NodeProps) {
  const { frame, size } = data as FrameData
  const actions = useActions()
  const name = useUndialled().frames[frame]?.name ?? ''
  const renaming = useView((view) => view.renamingFrame === frame)
  const zoom = useStore(({ transform }) => transform[2])
  const end = (): void => actions.setView({ renamingFrame: null })
  return (
    <section
      aria-label={`Frame ${name}`}
      className="rounded-lg border border-rule-strong bg-ground/60"
      style={{ width: size.width, height: size.height }}
    >
      <div
        className="pointer-events-auto flex cursor-grab items-end px-2 pb-1 font-semibold"
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
          <span className="truncate leading-none" style={{ fontSize: Math.min(LARGEST, READABLE / zoom) }}>
            {name}
          </span>
        )}
      </div>
    </section>
  )
}
