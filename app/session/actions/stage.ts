import { channelOutput } from '#core/document/address'
import type { Toggleable } from '#core/document/edits/focus'
import { findLayer } from '#core/document/edits/layers'
import { sameToggleable, setOff, toggleable } from '#core/document/edits/focus'
import { registry } from '#core/nodes/registry.generated'
import type { StageOutput } from '#core/texture/stage-output'
import { sameOutput } from '#core/texture/stage-output'
import { nodeTitle } from '../words/source-words'
import type { Selection, View } from '../view'
import { outputOf } from '../view'
import type { ActionContext } from './context'

/** What is drawn: on and off, alone, before and after, and what the stage shows. */
export function stageActions(context: ActionContext) {
  const { get, set, document, notify, edit, nameOf, select, setStage, layersWith } = context
  const toggleableInWords = (what: Toggleable): string => {
    if ('node' in what) return nodeTitle(document(), what.node)
    const name = nameOf(what.layer)
    if ('channel' in what) return `${what.channel} of ${name}`
    return 'entry' in what ? `mask entry ${what.entry + 1} of ${name}` : name
  }
  const actions = {
    toggleEnabled(what: Toggleable): void {
      const off = toggleable(document(), what)?.off ?? false
      // A layer with all that are chosen with it.
      const all =
        'layer' in what && !('channel' in what) && !('entry' in what)
          ? layersWith(what.layer).map((layer) => ({ layer }))
          : [what]
      edit(`Switch ${toggleableInWords(what)} ${off ? 'on' : 'off'}`, (draft) =>
        all.forEach((one) => setOff(draft, one, !off)),
      )
    },
    /** A note on a layer or a node; an empty one is none. */
    setNote(of: { layer: string } | { node: string }, note: string): void {
      edit(`Note on ${toggleableInWords(of)}`, (draft) => {
        const held = 'node' in of ? draft.nodes[of.node] : findLayer(draft, of.layer)
        if (!held) return
        if (note === '') delete held.note
        else held.note = note
      })
    },
    /** Waits for a press on the stage and gives the colour there. */
    pickColour(take: (hex: string) => void): void {
      set({ picking: take })
      notify('Press on the stage to take its base colour there.')
    },
    /** Alone, or all again. A node alone is its first output, flat on the stage. */
    toggleSolo(what: Toggleable): void {
      if ('node' in what) {
        const { shown } = get().stage
        const [port] = Object.keys(registry.get(document().nodes[what.node]?.type ?? '')?.outputs ?? {})
        if (shown?.kind === 'port' && shown.node === what.node) actions.showLarge(shown)
        else if (port !== undefined) actions.showLarge({ kind: 'port', node: what.node, port })
        return
      }
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
