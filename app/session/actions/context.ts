import type { MaterialDocument } from '#core/document/document'
import { findLayer, outermost } from '#core/document/edits/layers'
import type { EditingControl } from '../document/document-store'
import { lastPane } from '../last-pane'
import type { NoticeAction, Selection, StageView, View, ViewStore } from '../view'
import { sameSelection } from '../view'

/** Where a notice stands that no pane has caused. */
const MAIN_PANE = 'left above'

/** What all actions work with. */
export function createActionContext(control: EditingControl, view: ViewStore) {
  const { getState: get, setState: set } = view
  const document = (): MaterialDocument => control.store.getState().document
  /** Tells something where it happened. */
  const notify = (notice: string | null, action: NoticeAction | null = null): void =>
    set({ notice, noticePane: notice === null ? null : (lastPane() ?? MAIN_PANE), noticeAction: action })
  return {
    control,
    get,
    set,
    document,
    notify,
    edit(label: string, change: (draft: MaterialDocument) => void): void {
      notify(null)
      control.edit(label, change)
    },
    nameOf: (layer: string): string => findLayer(document(), layer)?.name ?? layer,
    select(selection: Selection | null): void {
      const { selection: now, selectedNodes, alsoLayers } = get()
      if (sameSelection(selection, now) && selectedNodes.length === 0 && alsoLayers.length === 0) return
      // Another place of the same layer leaves what is chosen with it.
      const same = selection && now && 'layer' in selection && 'layer' in now && selection.layer === now.layer
      set({
        selection,
        alsoLayers: same ? alsoLayers : [],
        selectedNodes: [],
        tab: get().tab === 'states' ? 'states' : 'selection',
      })
    },
    selectedLayer(): string | null {
      const { selection } = get()
      return selection && 'layer' in selection ? selection.layer : null
    },
    /** The layer, and all chosen with it where it is one of those; from the bottom up, groups without what lies in them. */
    layersWith(layer: string): string[] {
      const { selection, alsoLayers } = get()
      const chosen = selection && 'layer' in selection ? [selection.layer, ...alsoLayers] : alsoLayers
      return chosen.includes(layer) ? outermost(document(), chosen) : [layer]
    },
    selectNodes(selectedNodes: readonly string[]): void {
      const now = get().selectedNodes
      if (selectedNodes.length === now.length && selectedNodes.every((id, i) => id === now[i])) return
      set({ selectedNodes, ...(selectedNodes.length > 0 ? { tab: 'selection' as const } : {}) })
    },
    setStage(change: Partial<StageView>): void {
      // What is set by hand now is what stays.
      const stageBefore = 'shown' in change || 'mode' in change ? null : get().stageBefore
      set({ stage: { ...get().stage, ...change }, stageBefore })
    },
    openPalette(palette: View['palette']): void {
      set({ palette })
    },
  }
}

export type ActionContext = ReturnType<typeof createActionContext>
