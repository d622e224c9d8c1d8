import { metresOf } from '#core/document/domain'
import { useMemo } from 'react'
import type { GristError } from '#core/errors'
import { deliverableChannels } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { frameDial, frameWidth } from '#core/texture/frames'
import { writtenOut } from '#core/texture/edit-packing'
import { tileSize } from '#core/field/field'
import type { FilePlan, Frames, PackedFile, Packing, SlotPlan } from '#core/texture/packing'
import { filesOf } from '#core/texture/packing'
import { useDocument, useUndialled } from '../../session/material'
import { useMaps, usePackings } from './maps'

/** What is dragged: a slot of a file, or a channel. */
export type Carried = { kind: 'slot'; map: string; slot: number } | { kind: 'channel'; channel: string; title: string }

export const COLUMNS = ['file', 0, 1, 2, 3, 'form'] as const
/** Widths of the sheet's columns. */
export const SHEET_GRID = 'grid grid-cols-[minmax(12rem,1.5fr)_repeat(4,4.6rem)_minmax(8.5rem,1fr)]'

/**
 * The files of the packing as the sheet shows them (a file for every channel is written out), and ready to be written;
 * null where they cannot be, with the reason.
 */
export function useFiles(): {
  files: readonly FilePlan[]
  resolved: readonly PackedFile[] | null
  problem: string | null
} {
  const packing = usePackings((state) => state.packing)
  const document = useDocument()
  const { channels: own, domain } = document
  const lacking = packing.frames ? frameProblem(document, packing.frames) : null
  return useMemo(() => {
    const channels = deliverableChannels({ channels: own, domain })
    const { files } = writtenOut(packing, channels)
    try {
      return { files, resolved: filesOf({ files }, channels), problem: lacking }
    } catch (error) {
      return { files, resolved: null, problem: (error as GristError).detail }
    }
  }, [packing, own, domain, lacking])
}

function frameProblem(document: MaterialDocument, frames: Frames): string | null {
  try {
    frameDial(document, frames)
    return null
  } catch (error) {
    return (error as GristError).detail
  }
}

/** The size of files in texels, or why there is none. */
export function sizeFor(
  width: number,
  metres: readonly [number, number],
  frames?: Frames,
): { width: number; height: number } | string {
  try {
    if (!frames) return tileSize(width, metres)
    const frame = tileSize(frameWidth(width, frames), metres)
    return { width, height: frame.height * frames.rows }
  } catch (error) {
    return (error as GristError).detail
  }
}

/** The same for the packing on screen. */
export function useSizeFor(): (width: number) => { width: number; height: number } | string {
  const document = useUndialled()
  const frames = usePackings((state) => state.packing.frames)
  return (width) => sizeFor(width, metresOf(document), frames)
}

/** Changes the files of the packing on screen. */
export function useEditFiles(): (
  label: string,
  change: (files: readonly FilePlan[]) => FilePlan[],
  moving?: boolean,
) => void {
  const { packings } = useMaps()
  return (label, change, moving) =>
    packings.edit(label, (packing: Packing) => ({ ...packing, files: change(packing.files) }), moving)
}

/** A slot the other way round. */
export const inverted = (slot: Extract<SlotPlan, { channel: string }>): SlotPlan => ({ ...slot, invert: !slot.invert })
