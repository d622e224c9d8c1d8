import { addFile } from '#core/texture/edit-packing'
import { channelsOf } from '#core/document/channels'
import type { CommandEntry } from '../../session/commands'
import { stageCommands } from '../../session/commands'
import type { Material } from '../../session/material'
import type { Maps } from './maps'

/** Every command of the maps screen that can be done now. */
export function mapsCommands(
  { actions, control }: Material,
  { packings, view }: Maps,
  make: (width: number) => void,
  other: 'linen' | 'soot',
  setTheme: (theme: 'linen' | 'soot') => void,
): CommandEntry[] {
  const { undo, redo, list, packing } = packings.store.getState()
  const { delivered } = view.getState()
  const channels = channelsOf(control.store.getState().document)
  const commands: (CommandEntry | false | undefined)[] = [
    undo.at(-1) && { words: `Undo ${undo.at(-1)!.label}`, keys: 'Ctrl Z', run: packings.undo },
    redo.at(-1) && { words: `Redo ${redo.at(-1)!.label}`, keys: 'Ctrl Shift Z', run: packings.redo },
    {
      words: 'Add a file',
      run: () => packings.edit('New file', (now) => ({ ...now, files: addFile(now.files, null, channels) })),
    },
    ...channels.map((channel) => ({
      words: `Add a file of ${channel.title.toLowerCase()}`,
      run: () =>
        packings.edit(`New file of ${channel.title}`, (now) => ({
          ...now,
          files: addFile(now.files, channel, channels),
        })),
    })),
    ...list
      .filter((one) => one.packing.name !== packing.name)
      .map((one) => ({ words: `Packing: ${one.packing.title}`, run: () => packings.choose(one.packing.name) })),
    { words: 'Duplicate the packing', run: packings.duplicate },
    ...[512, 1024, 2048, 4096].map((width) => ({
      words: `Make at ${width}`,
      run: () => make(width),
    })),
    { words: 'Check', run: () => view.setState({ tab: 'check' }) },
    { words: 'Histogram', run: () => view.setState({ tab: 'histogram' }) },
    {
      words: 'As delivered, beside the source',
      run: () => view.setState({ delivered: { ...delivered, mode: 'beside' } }),
    },
    ...stageCommands(actions),
    { words: `Use the ${other} theme`, run: () => setTheme(other) },
    { words: 'Shortcuts', keys: '?', run: () => actions.setView({ help: 'shortcuts' }) },
    { words: 'A first material, step by step', run: actions.walk },
  ]
  return commands.filter((one): one is CommandEntry => Boolean(one))
}
