import type { MaterialDocument } from '#core/document/document'
import { findLayer } from '#core/document/edits/layers'
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
      if (sameSelection(selection, get().selection) && get().selectedNodes.length === 0) return
      set({ selection, selectedNodes: [], tab: get().tab === 'states' ? 'states' : 'selection' })
    },
    selectedLayer(): string | null {
      const { selection } = get()
      return selection && 'layer' in selection ? selection.layer : null
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
