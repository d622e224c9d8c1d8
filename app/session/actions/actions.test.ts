import { parseOutput } from '#core/document/address'
import { findLayer, findPlain } from '#core/document/edits/layers'
import { documentOf } from '#core/testing/examples'
import { sourceType, typeAt } from '../places'
import { screenOf } from '../testing/screen'
import { isPresent, outputOf } from '../view'

const start = documentOf({
  nodes: {
    noise: { type: 'noise' },
    soft: { type: 'blur', inputs: { source: 'noise.grey' } },
    slopes: { type: 'height-to-normal', inputs: { height: 'soft.result' } },
  },
  layers: [
    { kind: 'layer', id: 'base', name: 'Base', cells: { colour: { source: { value: '#808080' } } } },
    {
      kind: 'layer',
      id: 'bumps',
      name: 'Bumps',
      cells: {
        height: { source: { node: 'soft.result' } },
        normal: { source: { node: 'slopes.normal' }, blend: 'combine' },
      },
    },
  ],
})

const screen = () => screenOf(start)

it('a new layer lies above the chosen one, is chosen, and is undone whole', () => {
  const { actions, view, control, document } = screen()
  actions.select({ kind: 'layer', layer: 'base' })
  actions.addLayer('layer', true)
  expect(document().layers.map(({ id }) => id)).toEqual(['base', 'layer', 'bumps'])
  expect(view.getState().selection).toEqual({ kind: 'layer', layer: 'layer' })
  expect(Object.keys(findPlain(document(), 'layer')!.cells)).toEqual(['colour', 'roughness'])
  control.undo()
  expect(document()).toEqual(start)
})

it('deleting a layer chooses its neighbour', () => {
  const { actions, view } = screen()
  actions.deleteLayer('bumps')
  expect(view.getState().selection).toEqual({ kind: 'layer', layer: 'base' })
  actions.deleteLayer('base')
  expect(view.getState().selection).toBeNull()
})

it('a node for a cell is wired into it by the port that fits best', () => {
  const { actions, document, view } = screen()
  actions.addNode('cells', { into: { kind: 'cell', layer: 'base', channel: 'roughness' } })
  expect(findPlain(document(), 'base')!.cells.roughness!.source).toEqual({ node: 'cells.nearest' })
  actions.addNode('gradient-remap', { into: { kind: 'cell', layer: 'base', channel: 'colour' } })
  expect(findPlain(document(), 'base')!.cells.colour!.source).toEqual({ node: 'gradient-remap.result' })
  actions.addNode('noise', { into: { kind: 'mask', layer: 'base', entry: 0 } })
  expect(findLayer(document(), 'base')!.mask).toHaveLength(1)
  expect(view.getState().selectedNodes).toEqual(['noise-2'])
})

it('a node for a filled place takes in what was there; one that makes something replaces it', () => {
  const { actions, document } = screen()
  const height = { kind: 'cell', layer: 'bumps', channel: 'height' } as const
  actions.addNode('levels', { into: height })
  expect(document().nodes.levels!.inputs).toEqual({ source: 'soft.result' })
  expect(findPlain(document(), 'bumps')!.cells.height!.source).toEqual({ node: 'levels.result' })
  actions.addNode('invert', { into: { kind: 'cell', layer: 'base', channel: 'colour' } })
  expect(document().nodes.invert!.inputs).toEqual({ source: { value: '#808080' } })
  actions.addNode('cells', { into: height })
  expect(findPlain(document(), 'bumps')!.cells.height!.source).toEqual({ node: 'cells.nearest' })
  expect(document().nodes.cells!.inputs).toBeUndefined()
})

it('a node added with another chosen goes behind it, and between it and its only reader', () => {
  const { actions, document, view } = screen()
  view.setState({ selectedNodes: ['slopes'] })
  actions.addNode('adjust-normal')
  expect(document().nodes['adjust-normal']!.inputs).toEqual({ source: 'slopes.normal' })
  expect(findPlain(document(), 'bumps')!.cells.normal!.source).toEqual({ node: 'adjust-normal.normal' })
  // Two read it: both stay.
  view.setState({ selectedNodes: ['soft'] })
  actions.addNode('invert')
  expect(document().nodes.invert!.inputs).toEqual({ source: 'soft.result' })
  expect(findPlain(document(), 'bumps')!.cells.height!.source).toEqual({ node: 'soft.result' })
  view.setState({ selectedNodes: ['soft'] })
  actions.addNode('noise')
  expect(document().nodes['noise-2']!.inputs).toBeUndefined()
})

it('nodes of a correction work on what lies below by themselves, one after another', () => {
  const { actions, document, view } = screen()
  actions.addLayer('correction')
  const layer = actions.selectedLayer()!
  actions.select({ kind: 'cell', layer, channel: 'roughness' })
  actions.addNode('levels')
  view.setState({ selectedNodes: [] })
  actions.addNode('curve')
  expect(document().nodes.levels!.inputs).toEqual({ source: { backdrop: 'roughness' } })
  expect(document().nodes.curve!.inputs).toEqual({ source: 'levels.result' })
  expect(findPlain(document(), layer)!.cells.roughness!.source).toEqual({ node: 'curve.result' })
  actions.moveOperation({ layer, channel: 'roughness' }, 0, 1)
  expect(findPlain(document(), layer)!.cells.roughness!.source).toEqual({ node: 'levels.result' })
  actions.deleteNodes(['curve', 'levels'])
  expect(findPlain(document(), layer)!.cells.roughness!.source).toEqual({ backdrop: 'roughness' })
  // A wire from the card of what lies below.
  actions.addNode('blur')
  actions.connect('below:.height', { node: 'blur', port: 'source' })
  expect(document().nodes.blur!.inputs).toEqual({ source: { backdrop: 'height' } })
  actions.connect('below:.height', { kind: 'cell', layer: 'base', channel: 'height' })
  expect(findPlain(document(), 'base')!.cells.height!.source).toEqual({ backdrop: 'height' })
})

it('a deleted node is closed over only where its input fits', () => {
  const { actions, document } = screen()
  actions.deleteNodes(['slopes'])
  // Grey fits no cell of directions: the cell goes.
  expect(Object.keys(findPlain(document(), 'bumps')!.cells)).toEqual(['height'])
  actions.deleteNodes(['soft'])
  expect(findPlain(document(), 'bumps')!.cells.height!.source).toEqual({ node: 'noise.grey' })
})

it('a node for a loose wire takes it by the port that fits, from either end', () => {
  const { actions, document } = screen()
  actions.addNode('warp', { wire: { type: 'grey', loose: 'input', fixed: { node: 'noise', port: 'grey' } } })
  expect(document().nodes.warp!.inputs).toEqual({ source: 'noise.grey' })
  actions.addNode('noise', { wire: { type: 'grey', loose: 'output', fixed: { node: 'soft', port: 'radiusBy' } } })
  expect(document().nodes.soft!.inputs).toEqual({ source: 'noise.grey', radiusBy: 'noise-2.grey' })
  const place = { kind: 'cell', layer: 'base', channel: 'metallic' } as const
  actions.addNode('ramp', { wire: { type: 'grey', loose: 'output', fixed: { place } } })
  expect(findPlain(document(), 'base')!.cells.metallic!.source).toEqual({ node: 'ramp.grey' })
})

it('a wire that ends on a node takes a free input that fits as it is', () => {
  const { actions, view } = screen()
  actions.addNode('blend')
  expect(actions.inputFor('noise.grey', 'blend')).toEqual({ node: 'blend', port: 'base' })
  actions.connect('noise.grey', { node: 'blend', port: 'base' })
  expect(actions.inputFor('noise.grey', 'blend')).toEqual({ node: 'blend', port: 'source' })
  // What is free and converts comes before what is taken and fits as it is.
  actions.connect('noise.grey', { node: 'blend', port: 'source' })
  view.setState({ selectedNodes: [] })
  actions.addNode('gradient-remap')
  expect(actions.inputFor('gradient-remap.result', 'blend')).toEqual({ node: 'blend', port: 'mask' })
  actions.connect('noise.grey', { node: 'blend', port: 'mask' })
  expect(actions.inputFor('noise.grey', 'blend')).toEqual({ node: 'blend', port: 'base' })
  expect(actions.inputFor('slopes.normal', 'slopes')).toBeNull()
  expect(actions.outputFor('noise', { kind: 'cell', layer: 'base', channel: 'roughness' })).toBe('noise.grey')
})

it('wires that cannot be are refused with the reason, and nothing changes', () => {
  const { actions, view, document } = screen()
  actions.connect('slopes.normal', { node: 'soft', port: 'radiusBy' })
  expect(view.getState().notice).toContain('circle')
  actions.connect('slopes.normal', { kind: 'cell', layer: 'base', channel: 'roughness' })
  expect(view.getState().notice).toContain('carries normal and the port takes grey')
  actions.copyCell({ layer: 'bumps', channel: 'normal' }, { layer: 'base', channel: 'occlusion' }, false)
  expect(view.getState().notice).toContain('carries normal')
  expect(document()).toEqual(start)
})

it('space shows an output flat, and once more brings the lit material back', () => {
  const { actions, view } = screen()
  actions.showSelection({ kind: 'cell', layer: 'base', channel: 'colour' })
  expect(view.getState().stage).toMatchObject({ shown: parseOutput('cell:base:colour'), mode: 'flat' })
  actions.showSelection({ kind: 'cell', layer: 'base', channel: 'colour' })
  expect(view.getState().stage.shown).toBeNull()
  actions.isolate('height')
  expect(view.getState().stage.shown).toEqual(parseOutput('height'))
})

it('space from a channel on a shape goes back to just that', () => {
  const { actions, view } = screen()
  actions.setStage({ shown: parseOutput('height'), mode: 'model' })
  const place = { kind: 'cell', layer: 'base', channel: 'colour' } as const
  actions.showSelection(place)
  actions.showSelection({ kind: 'mask', layer: 'base', entry: null })
  expect(view.getState().stage.mode).toBe('flat')
  actions.showSelection({ kind: 'mask', layer: 'base', entry: null })
  expect(view.getState().stage).toMatchObject({ shown: parseOutput('height'), mode: 'model' })
})

it('undo and redo say what they did', () => {
  const { actions, view, document } = screen()
  actions.undo()
  expect(view.getState().notice).toBe('Nothing to undo.')
  actions.moveLayer('bumps', { beside: 'base', side: 'below' })
  actions.undo()
  expect(view.getState().notice).toBe('Undone: move Bumps')
  expect(document()).toEqual(start)
  actions.redo()
  expect(view.getState().notice).toBe('Redone: move Bumps')
  actions.setTarget('Radius', { node: 'soft', field: 'radius' }, 0.1)
  actions.undo()
  expect(view.getState().notice).toBe('Undone: radius of Blur')
})

it('a layer is put into a new group in its place, goes out of it, and back', () => {
  const { actions, view, document } = screen()
  actions.wrapInGroup('base')
  expect(document().layers.map(({ id }) => id)).toEqual(['group', 'bumps'])
  expect(view.getState().selection).toEqual({ kind: 'layer', layer: 'group' })
  actions.leaveGroup('base')
  expect(document().layers.map(({ id }) => id)).toEqual(['group', 'base', 'bumps'])
  actions.leaveGroup('base')
  expect(view.getState().notice).toBe('This layer is in no group.')
  actions.enterGroup('base')
  expect(document().layers.map(({ id }) => id)).toEqual(['group', 'bumps'])
})

it('a node for a mask is one more entry of it', () => {
  const { actions, document } = screen()
  for (const type of ['noise', 'cells']) actions.addNode(type, { into: { kind: 'mask', layer: 'base', entry: null } })
  expect(findLayer(document(), 'base')!.mask.map(({ source }) => source)).toEqual([
    { node: 'noise-2.grey' },
    { node: 'cells.nearest' },
  ])
})

it('a wire onto a mask adds an entry, or stands behind the one that feeds it', () => {
  const { actions, document } = screen()
  const mask = () => findLayer(document(), 'base')!.mask.map(({ source }) => source)
  const place = { kind: 'mask', layer: 'base', entry: null } as const
  actions.addNode('noise', { into: place })
  actions.addNode('threshold', { wire: { type: 'grey', loose: 'input', fixed: { node: 'noise-2', port: 'grey' } } })
  actions.connect('threshold.result', place)
  expect(mask()).toEqual([{ node: 'threshold.result' }])
  actions.addNode('cells')
  actions.connect('cells.border', place)
  expect(mask()).toEqual([{ node: 'threshold.result' }, { node: 'cells.border' }])
})

it('a mask becomes the source of a cell, and one more entry of another mask; a circle is refused with the way round', () => {
  const { actions, document, view } = screen()
  actions.putMask('base', { kind: 'cell', layer: 'base', channel: 'height' })
  expect(view.getState().notice).toContain('has no mask')
  for (const type of ['noise', 'cells']) actions.addNode(type, { into: { kind: 'mask', layer: 'base', entry: null } })
  actions.putMask('base', { kind: 'cell', layer: 'base', channel: 'metallic' })
  expect(findPlain(document(), 'base')!.cells.metallic!.source).toEqual({ tap: 'base-mask' })
  expect(document().taps['base-mask']).toEqual({ layer: 'base', mask: true })
  actions.putMask('base', { kind: 'mask', layer: 'bumps', entry: null })
  expect(findLayer(document(), 'bumps')!.mask.at(-1)!.source).toEqual({ tap: 'base-mask' })
  const before = document()
  actions.putMask('bumps', { kind: 'mask', layer: 'base', entry: null })
  expect(view.getState().notice).toContain('circle')
  expect(document()).toBe(before)
})

it('a node goes into a wire, and a wire is picked up and laid elsewhere, each as one edit', () => {
  const { actions, document, control, view } = screen()
  const id = actions.addNode('blur')!
  actions.connect('noise.grey', { node: id, port: 'source' })
  view.setState({ selectedNodes: [] })
  const lone = actions.addNode('threshold')!
  const edits = control.store.getState().undo.length
  expect(actions.isUnwired(lone)).toBe(true)
  actions.insertIntoWire(lone, 'noise.grey', { node: id, port: 'source' })
  expect(document().nodes[lone]!.inputs).toEqual({ source: 'noise.grey' })
  expect(document().nodes[id]!.inputs).toEqual({ source: `${lone}.result` })
  expect([actions.isUnwired(lone), control.store.getState().undo.length]).toEqual([false, edits + 1])
  actions.moveWire('noise.grey', { node: lone, port: 'source' }, { kind: 'mask', layer: 'base', entry: null })
  expect(document().nodes[lone]!.inputs).toEqual({})
  expect(findLayer(document(), 'base')!.mask.at(-1)!.source).toEqual({ node: 'noise.grey' })
  expect(control.store.getState().undo.length).toBe(edits + 2)
  actions.undo()
  expect(document().nodes[lone]!.inputs).toEqual({ source: 'noise.grey' })
})

it('deleting what several read or dials drive says so, and its button takes it back', () => {
  const { actions, document, view } = screen()
  actions.connect('noise.grey', { kind: 'mask', layer: 'base', entry: null })
  actions.makeDial('Gain', { kind: 'number', min: 0, max: 1 }, { node: 'noise', field: 'gain' }, 0.5)
  const before = document()
  actions.deleteNodes(['noise'])
  const { notice, noticeAction } = view.getState()
  expect(notice).toMatch(/^Noise deleted; .*no longer driven: Gain\./)
  noticeAction!.run()
  expect(document()).toEqual(before)
})

it('a layer’s own nodes are offered when it is deleted', () => {
  const { actions, document, view } = screen()
  actions.addNode('cells', { into: { kind: 'mask', layer: 'bumps', entry: null } })
  const nodes = Object.keys(document().nodes)
  actions.deleteLayer('bumps')
  expect(view.getState().notice).toContain('Nothing uses')
  expect(Object.keys(document().nodes)).toEqual(nodes)
  view.getState().noticeAction!.run()
  expect(Object.keys(document().nodes)).not.toContain('cells')
})

it('several layers are one choice: grouped, duplicated, moved and deleted together', () => {
  const { actions, document, view } = screen()
  actions.addLayer('layer')
  const ids = document().layers.map(({ id }) => id)
  actions.select({ kind: 'layer', layer: ids[2]! })
  actions.selectUpTo(ids[0]!, ids.toReversed())
  expect(actions.layersWith(ids[1]!)).toEqual(ids)
  actions.alsoSelect(ids[1]!)
  expect(actions.layersWith(ids[0]!)).toEqual([ids[0], ids[2]])
  actions.wrapInGroup(ids[0]!)
  const group = document().layers.find(({ kind }) => kind === 'group')!
  expect(document().layers.map(({ id }) => id)).toEqual([ids[1], group.id])
  expect(group.kind === 'group' && group.layers.map(({ id }) => id)).toEqual([ids[0], ids[2]])
  actions.undo()
  expect(document().layers.map(({ id }) => id)).toEqual(ids)
  actions.select({ kind: 'layer', layer: ids[0]! })
  actions.alsoSelect(ids[1]!)
  actions.toggleEnabled({ layer: ids[0]! })
  expect(document().layers.map(({ off }) => off ?? false)).toEqual([true, true, false])
  actions.duplicateLayer(ids[0]!)
  expect(document().layers).toHaveLength(5)
  expect(view.getState().alsoLayers).toHaveLength(1)
  actions.deleteLayer(actions.selectedLayer()!)
  expect(document().layers).toHaveLength(3)
})

it('off is saved, solo and without are not', () => {
  const { actions, document, view } = screen()
  actions.toggleEnabled({ layer: 'base' })
  expect(findLayer(document(), 'base')!.off).toBe(true)
  actions.toggleSolo({ layer: 'bumps' })
  actions.showWithout({ node: 'soft' })
  expect(view.getState()).toMatchObject({ solo: { layer: 'bumps' }, without: { node: 'soft' } })
  expect(document().nodes.soft!.off).toBeUndefined()
  actions.toggleSolo({ layer: 'bumps' })
  expect(view.getState().solo).toBeNull()
})

it('a dropped image becomes a layer, or a node; what is no image is told', async () => {
  const { actions, document, view } = screen()
  await actions.dropImages([new File([], 'shell grit.png')])
  expect(findPlain(document(), 'shell-grit')!.cells.colour!.source).toEqual({ node: 'image.colour' })
  await actions.dropImages([new File([], 'stain.png')], { graph: [4, 5] })
  expect(document().nodes['image-2']).toMatchObject({
    at: [4, 5],
    params: { image: expect.stringMatching(/^sha256:a+/) },
  })
  await actions.dropImages([new File([], 'grain.png')], {
    place: { kind: 'cell', layer: 'base', channel: 'roughness' },
  })
  expect(findPlain(document(), 'base')!.cells.roughness!.source).toEqual({ node: 'image-3.stored' })
  await actions.dropImages([new File([], 'notes.txt')])
  expect(view.getState().notice).toBe('■ That is no image.')
  const before = document()
  await actions.dropImages([new File([], 'wheel.GLB')])
  expect(view.getState().notice).toBe('Added to the project’s models: wheel.GLB.')
  expect(document()).toBe(before)
  await actions.dropImages([new File([], 'broken.obj')])
  expect(view.getState().notice).toBe('■ broken.obj is no model.')
})

it('a file that was exported to an image editor is compared, not put on top; what changed is imported in one step', async () => {
  const { actions, document, view, control } = screen()
  const before = document()
  for (const name of ['Base.ora', 'Base, Base colour [cell~base~colour #0123abcd].png']) {
    await actions.dropImages([new File([], name)])
    expect(view.getState().exchange).toMatchObject({ import: { name } })
  }
  expect(document()).toBe(before)
  const tag = {
    output: { kind: 'cell', layer: 'base', channel: 'colour' },
    withMask: true,
    key: '0123abcd',
  } as const
  const came = { tag, title: 'Base', state: 'changed', changed: 1 } as const
  const png = new Uint8Array(8)
  expect(await actions.applyImport([{ ...came, values: png, opacity: png }])).toBe(true)
  expect(control.undoable()).toBe('Import from an image editor')
  expect(findPlain(document(), 'base')).toMatchObject({
    cells: { colour: { source: { node: 'painted-1.colour' } } },
    mask: [{ source: { node: 'painted-2.stored' } }],
  })
  control.undo()
  expect(document().layers).toEqual(before.layers)
})

it('a dropped image with transparency becomes a decal where it was dropped, in its colour and by its alpha', async () => {
  const { actions, document, view } = screen()
  await actions.dropImages([new File([], 'plate clear.png')], { uv: [0.25, 0.75] })
  expect(document().nodes.stencil!.params).toMatchObject({ centre: [0.25, 0.75] })
  expect(findLayer(document(), 'plate-clear')).toMatchObject({
    mask: [{ source: { node: 'stencil.alpha' } }],
    cells: { colour: { source: { node: 'stencil.colour' } } },
  })
  expect(view.getState().selectedNodes).toEqual(['stencil'])
})

it('several dropped images become one layer by what their names say', async () => {
  const { actions, document, view } = screen()
  const files = [
    'bark_colour.png',
    'bark_orm.png',
    'bark_gloss.png',
    'bark_normal.png',
    'bark_height.png',
    'bark_x.png',
  ]
  await actions.dropImages(files.map((name) => new File([], name)))
  const { name, cells } = findPlain(document(), 'bark')!
  expect(name).toBe('bark')
  expect(
    Object.fromEntries(Object.entries(cells).map(([id, { source }]) => [id, (source as { node: string }).node])),
  ).toEqual({
    colour: 'image.colour',
    occlusion: 'split.first',
    // The later file wins: gloss is rough the other way round.
    roughness: 'invert.result',
    metallic: 'split.third',
    normal: 'image-4.colour',
    height: 'image-5.stored',
  })
  expect(document().nodes['image-2']!.params).toMatchObject({ encoding: 'raw' })
  expect(cells.normal!.off).toBe(true)
  expect(view.getState().notice).toBe(
    'The normal map is off: the height makes the same slopes. No channel is named in bark_x.png; the rest is in.',
  )
})

it('what is chosen is copied, cut and pasted as text: nodes, layers, cells, masks, dials', () => {
  const { actions, document, view } = screen()
  expect(actions.copyChosen('sheet')).toBeNull()
  actions.select({ kind: 'layer', layer: 'bumps' })
  const layer = actions.copyChosen('sheet', true)!
  expect(document().layers.map(({ id }) => id)).toEqual(['base'])
  actions.pasteText(layer)
  expect(document().layers.map(({ id }) => id)).toEqual(['base', 'bumps'])
  expect(findPlain(document(), 'bumps')!.cells.height!.source).toEqual({ node: 'soft-2.result' })
  actions.select({ kind: 'cell', layer: 'bumps', channel: 'height' })
  const cell = actions.copyChosen('nodes')!
  actions.select({ kind: 'mask', layer: 'base', entry: null })
  actions.pasteText(cell)
  expect(view.getState().selection).toEqual({ kind: 'mask', layer: 'base', entry: 0 })
  expect(findLayer(document(), 'base')!.mask[0]!.source).toEqual({ node: 'soft-3.result' })
  const entry = actions.copyChosen('sheet')!
  actions.select({ kind: 'layer', layer: 'bumps' })
  actions.pasteText(entry)
  expect(findLayer(document(), 'bumps')!.mask).toHaveLength(1)
  actions.selectNodes(['noise'])
  const nodes = actions.copyChosen('nodes')!
  actions.pasteText(nodes)
  expect(document().nodes).toHaveProperty('noise-5')
  expect(actions.copyChosen('sheet')).toContain('"kind": "mask"')
  actions.makeDial('Softness', { kind: 'number', min: 0, max: 1 }, { node: 'soft', field: 'radius' }, 0.1)
  actions.pasteText(actions.copyDials(['softness']))
  expect(document().dials.map(({ id }) => id)).toEqual(['softness', 'softness-2'])
  actions.select(null)
  actions.pasteText(cell)
  expect(view.getState().notice).toContain('Choose the layer')
  expect(actions.pasteText('a shopping list')).toBe(false)
})

it('a result gets a name, is picked elsewhere, and is refused where that would be a circle', () => {
  const { actions, document, view } = screen()
  actions.addMaskEntry('bumps', { node: 'noise.grey' })
  actions.nameResult({ layer: 'bumps', mask: true })
  expect(document().taps).toEqual({ 'bumps-mask': { name: 'Bumps, mask', layer: 'bumps', mask: true } })
  actions.setSource({ kind: 'cell', layer: 'base', channel: 'roughness' }, { tap: 'bumps-mask' })
  expect(findPlain(document(), 'base')!.cells.roughness!.source).toEqual({ tap: 'bumps-mask' })
  // Its own tone: what it reads stays as it is for others.
  actions.addNode('levels', { into: { kind: 'cell', layer: 'base', channel: 'roughness' } })
  expect(document().nodes.levels!.inputs).toEqual({ source: { tap: 'bumps-mask' } })
  const before = document()
  actions.setInput('noise', 'x', { tap: 'bumps-mask' })
  actions.setSource({ kind: 'mask', layer: 'bumps', entry: 0 }, { tap: 'bumps-mask' })
  expect(view.getState().notice).toContain('feed each other in a circle')
  expect(view.getState().notice).toContain('mask of layer bumps')
  expect(document().layers).toEqual(before.layers)
  actions.nameFirstOutput('noise')
  expect(document().taps.noise).toEqual({ name: 'Noise', node: 'noise.grey' })
  actions.unnameResult('bumps-mask')
  expect(document().nodes.levels!.inputs).toEqual({})
})

it('alternatives are stepped through as one edit, and gone back from', () => {
  const { actions, document, view, control } = screen()
  const height = () => findPlain(document(), 'bumps')!.cells.height!
  actions.select({ kind: 'cell', layer: 'bumps', channel: 'height' })
  const edits = control.store.getState().undo.length
  const before = document()
  actions.audition('blend', 1)
  actions.audition('blend', 1)
  expect(height().blend).not.toBe('normal')
  expect(view.getState().notice).toMatch(/^Bumps · height: .* \(3 of \d+\)/)
  expect(actions.endAudition()).toBe(true)
  expect([document(), control.store.getState().undo.length]).toEqual([before, edits])
  // The source: through all that fit, round to where it began; another edit keeps what stands.
  actions.audition('source', 1)
  actions.audition('source', -1)
  expect(height().source).toEqual({ node: 'soft.result' })
  actions.audition('source', -1)
  expect(height().source).toEqual({ node: 'noise.grey' })
  actions.renameLayer('base', 'Ground')
  expect(height().source).toEqual({ node: 'noise.grey' })
  expect(control.store.getState().undo.length).toBe(edits + 2)
  expect(actions.endAudition()).toBe(false)
  actions.selectNodes(['noise'])
  actions.audition('source', 1)
  expect(document().nodes.noise!.params).toEqual({ cells: [3, 3], octaves: 7 })
  actions.endAudition()
  actions.audition('blend', 1)
  expect(document().nodes.noise!.params).toEqual({ seed: 1 })
  actions.select({ kind: 'cell', layer: 'bumps', channel: 'roughness' })
  actions.audition('source', 1)
  expect(view.getState().notice).toBe('There is nothing else that could be here.')
})

it('what was pasted and cannot be here is told', () => {
  const { actions, view, document } = screen()
  actions.pasteText('{"format":"amber-grist/clip","version":2,"kind":"nodes","nodes":{"a":{"type":"nope"}}}')
  expect(view.getState().notice).toContain('no node type "nope"')
  expect(document()).toEqual(start)
})

it('a dial made from a setting drives it, and freeing it leaves the value', () => {
  const { actions, document } = screen()
  const target = { node: 'soft', field: 'radius' }
  actions.makeDial('Softness', { kind: 'number', min: 0, max: 0.25 }, target, 0.1)
  actions.setTarget('Softness', target, 0.2)
  expect(document().dials[0]).toMatchObject({ label: 'Softness', value: 0.2, default: 0.1 })
  actions.freeTarget(target, 0.2)
  expect(document().dials[0]!.drives).toEqual([])
  expect(document().nodes.soft!.params).toEqual({ radius: 0.2 })
})

it('knows what places take and what sources carry', () => {
  expect(typeAt(start, { kind: 'cell', layer: 'base', channel: 'normal' })).toBe('normal')
  expect(typeAt(start, { kind: 'mask', layer: 'base', entry: null })).toBe('grey')
  expect(sourceType(start, { node: 'slopes.normal' })).toBe('normal')
  expect(sourceType(start, { value: '#112233' })).toBe('colour')
  expect(sourceType(start, { backdrop: 'colour' })).toBe('colour')
  expect(sourceType(start, { tap: 'none' })).toBeNull()
  const cell = (layer: string, channel: string) => outputOf(start, { kind: 'cell', layer, channel })
  expect(outputOf(start, { kind: 'mask', layer: 'base', entry: 2 })).toEqual(parseOutput('entry:base:2'))
  expect(cell('base', 'colour')).toEqual(parseOutput('cell:base:colour'))
  expect(cell('base', 'height')).toEqual(parseOutput('layer:base:height'))
})

it('knows what an undo took away', () => {
  const masked = documentOf({
    layers: [{ kind: 'layer', id: 'base', name: 'Base', mask: [{ source: { value: 0.5 } }], cells: {} }],
  })
  expect(isPresent(masked, { kind: 'layer', layer: 'base' })).toBe(true)
  expect(isPresent(masked, { kind: 'layer', layer: 'bumps' })).toBe(false)
  expect(isPresent(masked, { kind: 'mask', layer: 'base', entry: 0 })).toBe(true)
  expect(isPresent(masked, { kind: 'mask', layer: 'base', entry: 1 })).toBe(false)
  expect(isPresent(masked, { kind: 'cell', layer: 'base', channel: 'colour' })).toBe(true)
  expect(isPresent(masked, { kind: 'channel', channel: 'gloss' })).toBe(false)
})
