import type { MaterialDocument } from '#core/document/document'
import { withOwnSettings } from '#core/document/own-settings'
import type { OwnSettings } from '#core/document/own-settings'
import type { Sharpening } from '#core/document/sharpening'
import { createContext, useContext, useMemo } from 'react'
import { useStore } from 'zustand'
import { createStore } from 'zustand/vanilla'
import type { Mark } from '#core/checks/texels-where'
import { useDocument } from '../../session/material'
import { deliverableChannels } from '#core/document/channels'
import type { Channel } from '#core/document/channels'
import type { PackingControl, PackingState } from './packing-store'

/** A place in the packing sheet: a file, one of its slots (R is 0), its form, or the row for a new file. */
export interface SheetPlace {
  readonly map: string
  readonly column: 'file' | 0 | 1 | 2 | 3 | 'form'
}
export const NEW_FILE = '+'

/** What is beside or instead of the source on the stage: files as the packing would make them, or a delivery's. */
export interface Delivered {
  readonly mode: 'source' | 'beside' | 'delivered' | 'difference'
  /** "now", or a delivery's id. */
  readonly from: string
  readonly mip: number
}

/** How maps are to be made. Kept in the browser, by material. */
export interface MakeSettings {
  readonly width: number
  readonly dither: boolean
  readonly sharpen: Sharpening
  /** What is another way than in the material. */
  readonly own: OwnSettings
}
export const STANDARD: MakeSettings = { width: 1024, dither: true, sharpen: 0, own: { layers: {} } }

/** What the maps screen shows. */
export interface MapsView {
  readonly place: SheetPlace
  /** Whether the editor of the place is open. */
  readonly editing: boolean
  readonly delivered: Delivered
  readonly tab: 'check' | 'histogram' | 'make'
  readonly settings: MakeSettings
  /** The channel whose histogram is shown. */
  readonly histogramChannel: string
  /** Where a finding shows, and its words. */
  readonly marked: { readonly words: string; readonly marks: readonly Mark[] } | null
  /** Two deliveries being compared, the earlier first. */
  readonly comparing: readonly [string, string] | null
  /** A slot that was copied. */
  readonly clip: { readonly map: string; readonly slot: number } | null
}

export const createMapsView = (map: string) =>
  createStore<MapsView>(() => ({
    place: { map, column: 'file' },
    editing: false,
    delivered: { mode: 'source', from: 'now', mip: 0 },
    tab: 'check',
    settings: STANDARD,
    histogramChannel: 'colour',
    marked: null,
    comparing: null,
    clip: null,
  }))

export interface Maps {
  readonly view: ReturnType<typeof createMapsView>
  readonly packings: PackingControl
}
export const MapsContext = createContext<Maps | null>(null)

export function useMaps(): Maps {
  const maps = useContext(MapsContext)
  if (!maps) throw new Error('outside the maps screen')
  return maps
}

export function useMapsView<T>(select: (view: MapsView) => T): T {
  return useStore(useMaps().view, select)
}

export function usePackings<T>(select: (state: PackingState) => T): T {
  return useStore(useMaps().packings.store, select)
}

/** The material as it will be made: with the settings that a delivery has of its own. */
export function useMade(): MaterialDocument {
  const document = useDocument()
  const own = useMapsView((view) => view.settings.own)
  return useMemo(() => withOwnSettings(document, own), [document, own])
}

/** The material's channels. */
export function useChannels(): Channel[] {
  const { channels, domain } = useDocument()
  return useMemo(() => deliverableChannels({ channels, domain }), [channels, domain])
}
