import type { EditingControl } from '../document/document-store'
import type { ViewStore } from '../view'
import { auditionActions } from './audition'
import { cellActions } from './cells'
import { clipboardActions } from './clipboard'
import { createActionContext } from './context'
import { dialActions } from './dials'
import { historyActions } from './history'
import { exchangeActions } from './exchange'
import type { FileWays } from './images'
import { imageActions } from './images'
import { layerActions } from './layers'
import { nodeActions } from './nodes'
import { stageActions } from './stage'
import { tapActions } from './taps'

/** What can be done on the material screen; buttons, keys and the palette all end here. */
export function createActions(control: EditingControl, view: ViewStore, files: FileWays) {
  const context = createActionContext(control, view)
  const { set, document, notify, edit, select, selectedLayer, selectNodes, setStage, openPalette } = context
  const layers = layerActions(context)
  const cells = cellActions(context, layers.deleteLayer)
  const exchange = exchangeActions(context, files)
  const nodes = nodeActions(context, cells.setSource)
  return {
    /** Begins the walk through a first material. */
    walk: (): void => set({ guide: true, guideStep: 0, guideStart: document() }),
    notify,
    edit,
    select,
    selectedLayer,
    layersWith: context.layersWith,
    selectNodes,
    setStage,
    openPalette,
    ...historyActions(context),
    ...layers,
    ...cells,
    ...nodes,
    ...imageActions(context, { ...files, importFromEditor: exchange.importFromEditor }),
    ...exchange,
    ...clipboardActions(context, { ...layers, ...cells, ...nodes }),
    ...dialActions(context),
    ...stageActions(context),
    ...tapActions(context),
    ...auditionActions(context),
  }
}

export type Actions = ReturnType<typeof createActions>
