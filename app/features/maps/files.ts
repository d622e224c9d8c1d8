import { useMemo } from 'react'
import type { GristError } from '#core/errors'
import { channelsOf } from '#core/document/channels'
import { writtenOut } from '#core/texture/edit-packing'
import { tileSize } from '#core/field/field'
import type { FilePlan, PackedFile, Packing, SlotPlan } from '#core/texture/packing'
import { filesOf } from '#core/texture/packing'
import { useDocument } from '../../session/material'
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
  const { channels: own } = useDocument()
  return useMemo(() => {
    const channels = channelsOf({ channels: own })
    const { files } = writtenOut(packing, channels)
    try {
      return { files, resolved: filesOf({ files }, channels), problem: null }
    } catch (error) {
      return { files, resolved: null, problem: (error as GristError).detail }
    }
  }, [packing, own])
}

/** The size in texels, or why there is none. */
export function sizeFor(width: number, metres: readonly [number, number]): { width: number; height: number } | string {
  try {
    return tileSize(width, metres)
  } catch (error) {
    return (error as GristError).detail
  }
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
