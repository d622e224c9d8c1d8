import { isModel } from '../send-file'
import { cutText } from '#core/cut-text'
import type { Cell, MaterialDocument, Source } from '#core/document/document'
import { addLayer, addMaskEntry, findLayer, findPlain, setCell } from '#core/document/edits/layers'
import { replaceImage } from '#core/document/edits/images'
import { addNode, connect } from '#core/document/edits/nodes'
import { isFromEditor } from '#core/exchange/exported-pictures'
import { registry } from '#core/nodes/registry.generated'
import type { Role } from '#core/texture/roles'
import { roleOfName } from '#core/texture/roles'
import type { Asset } from '../../contracts/asset'
import { typeAt, writeSource } from '../places'
import type { Selection } from '../view'
import type { ActionContext } from './context'

/** An image that has just been imported. */
export interface Imported extends Asset {
  /** Whether some of it lets through what lies under it. */
  readonly transparent: boolean
}

/** Where files were dropped: at a place of the tile (u right, v down), on a cell or mask, or at a point of the graph. */
export interface Dropped {
  readonly uv?: readonly [number, number]
  readonly place?: Selection
  readonly graph?: [number, number]
}

const IMAGE = registry.get('image')!
const STENCIL = registry.get('stencil')!
/** Share of the tile's width that a decal takes at first. */
const DECAL = 0.4

const named = (asset: Asset): string => cutText(asset.name.replace(/\.[^.]*$/, ''), 60) || 'Image'
const fileOf = ({ sha256 }: Asset): string => `sha256:${sha256}`

/** What all names begin with, without what joins it to the rest; the first name where that is nothing. */
function commonName(names: readonly string[]): string {
  const [first = ''] = names
  let length = first.length
  for (const name of names) while (!name.startsWith(first.slice(0, length))) length--
  return first.slice(0, length).replace(/[^\p{L}\p{N})]+$/u, '') || first
}

/** Adds an image node. Gives its id. */
const addImage = (draft: MaterialDocument, asset: Asset, encoding: 'srgb' | 'raw', at?: [number, number]): string =>
  addNode(draft, IMAGE, at, { image: fileOf(asset), ...(encoding === 'raw' ? { encoding } : {}) })

/** Files that are dropped: decals, layers, sources, nodes. */
/** Ways of files into the project: of an image, and of a model, which gives what went wrong in words, or null. */
export interface FileWays {
  readonly addAsset: (file: File) => Promise<Imported | string>
  readonly addModel: (file: File) => Promise<string | null>
}

export function imageActions(
  context: ActionContext,
  { addAsset, addModel, importFromEditor }: FileWays & { readonly importFromEditor: (file: File) => void },
) {
  const { notify, edit, document, select, selectedLayer, selectNodes } = context

  /** A layer of a picture with transparency: its alpha is the mask. */
  function addDecal(asset: Asset, centre: readonly [number, number]): void {
    let layer = ''
    let node = ''
    edit(`Add decal ${asset.name}`, (draft) => {
      layer = addLayer(draft, 'layer', selectedLayer(), named(asset))
      node = addNode(draft, STENCIL, undefined, {
        image: fileOf(asset),
        centre: centre.map((v) => Math.round(v * 1000) / 1000),
        size: DECAL,
      })
      addMaskEntry(draft, layer, { node: `${node}.alpha` })
      setCell(draft, layer, 'colour', { source: { node: `${node}.colour` } })
    })
    select({ kind: 'layer', layer })
    selectNodes([node])
    notify(`${asset.name} lies on the tile: drag it on the stage, by its corners and its handle.`)
  }

  /** One layer of several pictures by what their names say they hold. */
  function addSet(assets: readonly Asset[]): void {
    let layer = ''
    const left: string[] = []
    let both = false
    edit(`Add layer of ${assets.length} images`, (draft) => {
      layer = addLayer(draft, 'layer', selectedLayer(), commonName(assets.map(named)))
      for (const asset of assets) {
        const role = roleOfName(asset.name) ?? (findPlain(draft, layer)!.cells.colour ? null : COLOUR)
        if (role) putRole(draft, layer, asset, role)
        else left.push(asset.name)
      }
      const { cells } = findPlain(draft, layer)!
      both = cells.height !== undefined && cells.normal !== undefined
      // The height makes slopes by itself; those of the file would come on top.
      if (both) cells.normal!.off = true
    })
    select({ kind: 'layer', layer })
    const words = [
      both ? 'The normal map is off: the height makes the same slopes.' : '',
      left.length > 0 ? `No channel is named in ${left.join(', ')}; the rest is in.` : '',
    ].filter(Boolean)
    if (words.length > 0) notify(words.join(' '))
  }

  function addPlain(asset: Asset): void {
    let layer = ''
    edit(`Add layer of ${asset.name}`, (draft) => {
      layer = addLayer(draft, 'layer', selectedLayer(), named(asset))
      setCell(draft, layer, 'colour', { source: { node: `${addImage(draft, asset, 'srgb')}.colour` } })
    })
    select({ kind: 'cell', layer, channel: 'colour' })
  }

  function putInto(asset: Asset, place: Selection): void {
    edit(`Image into ${'layer' in place ? (findLayer(document(), place.layer)?.name ?? '') : ''}`, (draft) => {
      const isColour = typeAt(draft, place) !== 'grey'
      const node = addImage(draft, asset, typeAt(draft, place) === 'normal' ? 'raw' : 'srgb')
      writeSource(draft, place, { node: `${node}.${isColour ? 'colour' : 'stored'}` })
    })
    select(place.kind === 'mask' ? { ...place, entry: null } : place)
  }

  return {
    /** Puts an image in another's place wherever the material names that. */
    replaceImage(from: string, to: string): void {
      edit('Replace an image everywhere', (draft) => replaceImage(draft, from, to))
    },
    /**
     * Files dropped somewhere: one with transparency becomes a decal; a plain one goes into the cell or mask under it, or
     * becomes a node of the graph, or else a layer; several become one layer by what their names say. A model goes to the project's
     * models; a file that was exported to an image editor is compared with the material.
     */
    async dropImages(files: readonly File[], at: Dropped = {}): Promise<void> {
      const [edited] = files.filter(isFromEditor)
      if (edited) return importFromEditor(edited)
      const models = files.filter(isModel)
      for (const file of models) {
        notify(`Reading ${file.name} …`)
        const problem = await addModel(file)
        if (problem !== null) return notify(`■ ${problem}`)
      }
      if (models.length === files.length)
        return notify(`Added to the project’s models: ${models.map(({ name }) => name).join(', ')}.`)
      const imported: Imported[] = []
      for (const file of files.filter((one) => !isModel(one))) {
        notify(`Reading ${file.name} …`)
        const sent = await addAsset(file)
        if (typeof sent === 'string') return notify(`■ ${sent}`)
        imported.push(sent)
      }
      notify(null)
      const [only] = imported
      if (!only) return
      const { place, graph, uv = [0.5, 0.5] } = at
      if (imported.length > 1) return addSet(imported)
      if (place && (place.kind === 'cell' || place.kind === 'mask')) return putInto(only, place)
      if (only.transparent) return addDecal(only, uv)
      if (!graph) return addPlain(only)
      let id = ''
      edit(`Add ${only.name}`, (draft) => (id = addImage(draft, only, 'srgb', graph)))
      selectNodes([id])
    },
  }
}

const COLOUR = roleOfName('colour')!

/** Puts what a picture holds into the cells of a layer. */
function putRole(draft: MaterialDocument, layer: string, asset: Asset, { transfer, slots }: Role): void {
  const channels = [...new Set(slots.flatMap(({ channel }) => (channel === null ? [] : [channel])))]
  const node = addImage(draft, asset, transfer === 'srgb' ? 'srgb' : 'raw')
  const set = (channel: string, source: Source, more: Partial<Cell> = {}): void =>
    setCell(draft, layer, channel, { source, ...more })
  const [first] = channels
  if (channels.length === 1 && first !== undefined && slots.length === 3)
    return set(first, { node: `${node}.colour` }, first === 'normal' ? { blend: 'combine' } : {})
  const invert = (from: string): string => {
    const id = addNode(draft, registry.get('invert')!)
    connect(draft, id, 'source', { node: from })
    return `${id}.result`
  }
  let parts = [`${node}.stored`]
  if (slots.length > 1) {
    const split = addNode(draft, registry.get('split')!)
    connect(draft, split, 'source', { node: `${node}.colour` })
    parts = ['first', 'second', 'third'].map((port) => `${split}.${port}`)
  }
  slots.forEach(({ channel, inverted }, i) => {
    const part = parts[i]
    if (channel !== null && part !== undefined) set(channel, { node: inverted ? invert(part) : part })
  })
}
