/** Every shortcut, by where it works; `?` shows them. Ctrl is Cmd on a Mac. */
export const SHORTCUTS: readonly { where: string; keys: readonly (readonly [string, string])[] }[] = [
  {
    where: 'Everywhere',
    keys: [
      ['Ctrl K', 'Find or do …'],
      ['Ctrl Z', 'Undo'],
      ['Ctrl Shift Z, Ctrl Y', 'Redo'],
      ['?', 'This list'],
      ['F6', 'To the next pane'],
    ],
  },
  {
    where: 'Layers',
    keys: [
      ['Arrows, Home, End', 'From cell to cell'],
      ['Enter', 'Open the editor, at a cell’s value; on a channel, show it alone'],
      ['Escape', 'Back from the editor'],
      ['Space', 'Show large on the stage, and back'],
      ['Delete', 'Clear the cell or mask, delete the layer'],
      ['L  C', 'New layer, correction'],
      ['G', 'Group around this layer'],
      ['N', 'New node into this cell or mask'],
      ['Alt ↑  Alt ↓', 'Move the layer'],
      ['Alt →  Alt ←', 'Into the group beside it, and out'],
      ['Ctrl D', 'Duplicate the layer'],
      ['F2', 'Rename the layer'],
      ['Ctrl C, Ctrl V', 'Copy a cell'],
      ['Ctrl Shift V', 'Paste it linked'],
      ['O', 'Off and on'],
      ['A', 'Alone'],
      ['B, held', 'Before and after'],
      ['− or +', 'Fold a group'],
    ],
  },
  {
    where: 'Nodes',
    keys: [
      ['N', 'New node'],
      ['F', 'All of it in view'],
      ['Ctrl D', 'Duplicate'],
      ['Ctrl C, Ctrl V', 'Copy and paste as text'],
      ['Delete', 'Delete nodes or wires'],
      ['O', 'Off and on'],
      ['B, held', 'Before and after'],
    ],
  },
  {
    where: 'Files',
    keys: [
      ['Arrows, Home, End', 'From cell to cell'],
      ['Enter', 'What a slot holds; how a file is written'],
      ['Space', 'Show the file or slot on the stage'],
      ['Delete', 'Clear the slot, delete the file'],
      ['I', 'Invert'],
      ['Ctrl C, Ctrl V', 'Copy a slot'],
      ['Ctrl Shift V', 'Paste it linked'],
    ],
  },
  {
    where: 'Numbers',
    keys: [
      ['Drag sideways', 'Change; Shift coarse, Alt fine'],
      ['↑  ↓, wheel', 'Step; Shift coarse, Alt fine'],
      ['1/3, 2*4, 45°', 'Arithmetic'],
      ['Double-click', 'The default'],
    ],
  },
  {
    where: 'Stage',
    keys: [
      ['Drag', 'Turn the shape, or move the flat view'],
      ['Wheel', 'Nearer and farther'],
      ['←  →', 'Turn the light'],
      ['↑  ↓', 'Exposure'],
    ],
  },
]
