import { channelOutput } from '#core/document/address'
import type { Toggleable } from '#core/document/edits/focus'
import { sameToggleable, setOff, toggleable } from '#core/document/edits/focus'
import type { StageOutput } from '#core/texture/stage-output'
import { sameOutput } from '#core/texture/stage-output'
import type { Selection, View } from '../view'
import { outputOf } from '../view'
import type { ActionContext } from './context'

/** What is drawn: on and off, alone, before and after, and what the stage shows. */
export function stageActions({ get, set, document, notify, edit, select, setStage }: ActionContext) {
  const actions = {
    toggleEnabled(what: Toggleable): void {
      const off = toggleable(document(), what)?.off ?? false
      edit(off ? 'Switch on' : 'Switch off', (draft) => setOff(draft, what, !off))
    },
    /** Waits for a press on the stage and gives the colour there. */
    pickColour(take: (hex: string) => void): void {
      set({ picking: take })
      notify('Press on the stage to take its base colour there.')
    },
    toggleSolo(what: Toggleable): void {
      set({ solo: sameToggleable(get().solo, what) ? null : what })
    },
    showWithout(what: Toggleable | null): void {
      if (!sameToggleable(get().without, what)) set({ without: what })
    },
    /** Shows an output large and flat on the stage; once more brings back what was there before. */
    showLarge(output: StageOutput): void {
      const { stage, stageBefore } = get()
      if (sameOutput(stage.shown, output)) {
        set({ stage: { ...stage, shown: null, ...stageBefore }, stageBefore: null })
        return
      }
      const { shown, mode } = stage
      set({ stage: { ...stage, shown: output, mode: 'flat' }, stageBefore: stageBefore ?? { shown, mode } })
    },
    isolate(channel: string): void {
      const { stage } = get()
      const output = channelOutput(channel)
      setStage({ shown: sameOutput(stage.shown, output) ? null : output })
      select({ kind: 'channel', channel })
    },
    showSelection: (place: Selection): void => actions.showLarge(outputOf(document(), place)),
    setView: (change: Partial<View>): void => set(change),
  }
  return actions
}
