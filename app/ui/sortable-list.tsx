import type { DragEndEvent } from '@dnd-kit/core'
import { DndContext, KeyboardSensor, closestCenter, useSensor } from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import { GripVertical } from 'lucide-react'
import type { ReactNode } from 'react'
import { useId } from 'react'
import { useDragSensors } from './drag'

export interface SortableRow {
  readonly key: string
  /** What the row is called. */
  readonly word: string
  readonly chosen?: boolean
  readonly shows: ReactNode
}

/** Rows that change places: by their grips, by Alt with the arrows, or by Space, arrows, Space on a grip. */
export function SortableList({
  label,
  rows,
  onMove,
}: {
  label: string
  rows: readonly SortableRow[]
  onMove: (from: number, to: number) => void
}) {
  const keyboard = useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates })
  const sensors = [...useDragSensors(), keyboard]
  const id = useId()
  const keys = rows.map(({ key }) => key)
  const end = ({ active, over }: DragEndEvent): void => {
    const [from, to] = [keys.indexOf(String(active.id)), over ? keys.indexOf(String(over.id)) : -1]
    if (from >= 0 && to >= 0 && from !== to) onMove(from, to)
  }
  return (
    <DndContext id={id} sensors={sensors} collisionDetection={closestCenter} onDragEnd={end}>
      <SortableContext items={keys} strategy={verticalListSortingStrategy}>
        <ol aria-label={label} className="flex flex-col gap-1">
          {rows.map(({ key, ...row }, index) => (
            <Row
              key={key}
              {...row}
              id={key}
              onStep={(by) => {
                const to = index + by
                if (to >= 0 && to < rows.length) onMove(index, to)
              }}
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  )
}

function Row({
  id,
  word,
  chosen = false,
  shows,
  onStep,
}: Omit<SortableRow, 'key'> & { id: string; onStep: (by: 1 | -1) => void }) {
  const { setNodeRef, setActivatorNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({
    id,
  })
  return (
    <li
      ref={setNodeRef}
      className={`flex items-center gap-2 rounded border py-1 pr-1.5 pl-0.5 ${chosen ? 'border-accent bg-raised' : 'border-rule bg-panel'} ${isDragging ? 'relative z-10 shadow-lg' : ''}`}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      onKeyDown={(event) => {
        if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return
        event.preventDefault()
        event.stopPropagation()
        onStep(event.key === 'ArrowUp' ? -1 : 1)
      }}
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        {...attributes}
        {...listeners}
        aria-label={`Move ${word}`}
        title="Drag to another place, or Alt ↑, Alt ↓"
        className="grid h-6 w-4 shrink-0 cursor-grab touch-none place-items-center rounded text-ink-soft hover:bg-ground hover:text-ink"
      >
        <GripVertical size={13} aria-hidden />
      </button>
      {shows}
    </li>
  )
}
