import { parsePort } from '../address'
import type { Dial, Group, Layer, MaterialDocument } from '../document'
import { allLayers } from '../document'
import { sameJson as same } from '../../same-json'

/** A place of a document that two people changed to different values since they both had `base`. */
export interface EditClash {
  /** Names the place; equal for the same place. */
  readonly key: string
  /** Members from the document down; a layer stands by its id, wherever it lies. */
  readonly path: readonly string[]
  /** Undefined where it does not exist or was deleted. */
  readonly mine: unknown
  readonly theirs: unknown
}

export type Choice = 'mine' | 'theirs'
/** Which of two values is to be taken at a place, whoever changed it; undefined where nobody has chosen. */
export type Decide = (key: string) => Choice | undefined

/**
 * Brings two changed copies of a document together: what only one of them changed is taken from it, member by member; layers,
 * nodes, dials and named results go by their ids, wherever they were moved. Where both changed a place to different values
 * it is a clash, and theirs stands. What `decide` has chosen for a place holds there in any case. Source: three-way merge; own
 * derivation for trees.
 */
export function mergeDocuments(
  base: MaterialDocument,
  mine: MaterialDocument,
  theirs: MaterialDocument,
  decide: Decide,
): { document: MaterialDocument; clashes: EditClash[] } {
  const clashes: EditClash[] = []
  const choose: Choose = (path, a, b) => {
    clashes.push({ key: path.join('/'), path, mine: a, theirs: b })
    return b
  }
  choose.chosen = (path) => decide(path.join('/'))
  const [b, m, t] = [base, mine, theirs].map((one) => ({ ...one, layers: undefined, dials: undefined }))
  const members = mergeValue([], b, m, t, choose) as MaterialDocument
  return {
    document: {
      ...members,
      layers: mergeLayers(base.layers, mine.layers, theirs.layers, choose),
      dials: mergeDials(base.dials, mine.dials, theirs.dials, choose),
    },
    clashes,
  }
}

/** Notes a clash and gives the value that stands for now; `chosen` is what somebody chose for a place. */
interface Choose {
  (path: readonly string[], mine: unknown, theirs: unknown): unknown
  chosen: (path: readonly string[]) => Choice | undefined
}
type Plain = Record<string, unknown>

const isPlain = (value: unknown): value is Plain => typeof value === 'object' && value !== null && !Array.isArray(value)

/** Members that only make sense whole: what a thing is connected to. */
const isWhole = (path: readonly string[]): boolean =>
  path.at(-1) === 'source' || path.at(-2) === 'inputs' || path.at(-2) === 'taps' || path.at(-1) === 'drives'

/** Where a node stands in the graph: nobody is asked about it. */
const isPlace = ([kind, , member]: readonly string[]): boolean => kind === 'nodes' && member === 'at'

/** A node without where it stands. */
const placeless = (node: unknown): unknown => (isPlain(node) ? { ...node, at: undefined } : node)

function mergeValue(path: readonly string[], base: unknown, mine: unknown, theirs: unknown, choose: Choose): unknown {
  if (same(mine, base) || same(mine, theirs)) return theirs
  if (isPlace(path)) return mine
  // A node that was only moved about may be deleted by the other.
  if (path.length === 2 && path[0] === 'nodes' && (mine === undefined || theirs === undefined))
    if (same(placeless(mine ?? theirs), placeless(base))) return undefined
  const chosen = choose.chosen(path)
  if (chosen) return chosen === 'mine' ? mine : theirs
  if (isPlain(mine) && isPlain(theirs) && (isPlain(base) || base === undefined) && !isWhole(path)) {
    const merged: Plain = {}
    const from = (base ?? {}) as Plain
    // Their order first, so that merging what is equal changes nothing.
    for (const key of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
      const value = mergeValue([...path, key], own(from, key), own(mine, key), own(theirs, key), choose)
      if (value !== undefined) merged[key] = value
    }
    return merged
  }
  if (areAlike(base, mine, theirs))
    return (mine as unknown[]).map((_, i) =>
      mergeValue(
        [...path, String(i)],
        (base as unknown[])[i],
        (mine as unknown[])[i],
        (theirs as unknown[])[i],
        choose,
      ),
    )
  return same(theirs, base) ? mine : choose(path, mine, theirs)
}

const own = (from: Plain, key: string): unknown => (Object.hasOwn(from, key) ? from[key] : undefined)

/** Lists whose entries stand for the same things in all three: numbers of a tuple, or mask entries that read the same. */
function areAlike(...lists: unknown[]): boolean {
  if (!lists.every(Array.isArray)) return false
  const [first, ...others] = lists as unknown[][]
  return others.every(
    (list) =>
      list.length === first!.length &&
      list.every((entry, i) => {
        const other = first![i]
        if (isPlain(entry)) return isPlain(other) && 'source' in entry && same(entry['source'], other['source'])
        return Array.isArray(entry) ? areAlike(entry, other) : typeof entry === typeof other
      }),
  )
}

const ROOT = ''

/** A layer apart from where it lies and from what lies in it. */
interface Leaf {
  readonly own: Plain
  readonly parent: string
}

/** Layers by id, and the order of ids in each group; the root is "". */
function flatten(layers: readonly Layer[]): { leaves: Map<string, Leaf>; orders: Map<string, string[]> } {
  const leaves = new Map<string, Leaf>()
  const orders = new Map<string, string[]>([[ROOT, []]])
  const walk = (list: readonly Layer[], parent: string): void => {
    orders.set(
      parent,
      list.map(({ id }) => id),
    )
    for (const layer of list) {
      const { layers: inside, ...rest } = layer as Group
      leaves.set(layer.id, { own: rest, parent })
      if (inside) walk(inside, layer.id)
    }
  }
  walk(layers, ROOT)
  return { leaves, orders }
}

function mergeLayers(
  base: readonly Layer[],
  mine: readonly Layer[],
  theirs: readonly Layer[],
  choose: Choose,
): Layer[] {
  const [b, m, t] = [flatten(base), flatten(mine), flatten(theirs)]
  const merged = new Map<string, { own: Plain; parent: string }>()
  for (const id of new Set([...t.leaves.keys(), ...m.leaves.keys()])) {
    const [was, a, c] = [b.leaves.get(id), m.leaves.get(id), t.leaves.get(id)]
    const leaf = mergeLeaf(['layers', id], was, a, c, choose)
    if (leaf) merged.set(id, leaf)
  }
  // What lies in a group that is gone lies where the group lay.
  for (const [id, leaf] of merged) {
    let { parent } = leaf
    while (parent !== ROOT && !merged.has(parent))
      parent = (t.leaves.get(parent) ?? m.leaves.get(parent) ?? b.leaves.get(parent))?.parent ?? ROOT
    merged.set(id, { ...leaf, parent })
  }
  // Two groups moved into each other: theirs stays where they put it.
  for (const [id, leaf] of merged)
    if (isInItself(id, merged)) merged.set(id, { ...leaf, parent: t.leaves.get(id)?.parent ?? ROOT })
  for (const [id, leaf] of merged) if (isInItself(id, merged)) merged.set(id, { ...leaf, parent: ROOT })

  const build = (parent: string): Layer[] => {
    const members = [...merged].flatMap(([id, leaf]) => (leaf.parent === parent ? [id] : []))
    const [ob, om, ot] = [b, m, t].map(({ orders }) => orders.get(parent) ?? [])
    return mergeOrder(['layers', parent, 'order'], members, ob!, om!, ot!, choose).map((id) => {
      const layer = merged.get(id)!.own
      return (layer['kind'] === 'group' ? { ...layer, layers: build(id) } : layer) as unknown as Layer
    })
  }
  return build(ROOT)
}

function mergeLeaf(
  path: readonly string[],
  was: Leaf | undefined,
  mine: Leaf | undefined,
  theirs: Leaf | undefined,
  choose: Choose,
): Leaf | null {
  if (was && (!mine || !theirs)) {
    const left = mine ?? theirs
    const chosen = choose.chosen(path)
    if (chosen) return (chosen === 'mine' ? mine : theirs) ?? null
    if (!left || (same(left.own, was.own) && left.parent === was.parent)) return null
    return choose(path, mine?.own, theirs?.own) === undefined ? null : left
  }
  if (!mine || !theirs) return mine ?? theirs ?? null
  return {
    own: mergeValue(path, was?.own, mine.own, theirs.own, choose) as Plain,
    parent: mergeValue([...path, 'place'], was?.parent, mine.parent, theirs.parent, choose) as string,
  }
}

function isInItself(id: string, leaves: ReadonlyMap<string, Leaf>): boolean {
  const seen = new Set<string>()
  for (let at = leaves.get(id)!.parent; at !== ROOT; at = leaves.get(at)?.parent ?? ROOT) {
    if (at === id) return true
    if (seen.has(at)) return false
    seen.add(at)
  }
  return false
}

/** The order of `members`: who moved things has them where they were put, what the other added follows its neighbour. */
function mergeOrder(
  path: readonly string[],
  members: readonly string[],
  base: readonly string[],
  mine: readonly string[],
  theirs: readonly string[],
  choose: Choose,
): string[] {
  const among = (list: readonly string[]): string[] => list.filter((id) => members.includes(id))
  const common = members.filter((id) => base.includes(id) && mine.includes(id) && theirs.includes(id))
  const relative = (list: readonly string[]): string[] => list.filter((id) => common.includes(id))
  const [b, m, t] = [base, mine, theirs].map(relative)
  const order = mergeWholeOrder(path, b!, m!, t!, choose)
  const [lead, other] = same(order, t) ? [among(theirs), among(mine)] : [among(mine), among(theirs)]
  const merged = [...lead]
  for (const [i, id] of other.entries()) {
    if (merged.includes(id)) continue
    const before = other.slice(0, i).findLast((one) => merged.includes(one))
    merged.splice(before === undefined ? 0 : merged.indexOf(before) + 1, 0, id)
  }
  // What was moved here out of a group that is gone stands in neither list.
  return [...merged, ...members.filter((id) => !merged.includes(id))]
}

function mergeWholeOrder(
  path: readonly string[],
  base: string[],
  mine: string[],
  theirs: string[],
  choose: Choose,
): string[] {
  if (same(mine, base) || same(mine, theirs)) return theirs
  const chosen = choose.chosen(path)
  if (chosen) return chosen === 'mine' ? mine : theirs
  return same(theirs, base) ? mine : (choose(path, mine, theirs) as string[])
}

function mergeDials(base: readonly Dial[], mine: readonly Dial[], theirs: readonly Dial[], choose: Choose): Dial[] {
  const byId = (dials: readonly Dial[]): Map<string, Dial> => new Map(dials.map((dial) => [dial.id, dial]))
  const [b, m, t] = [base, mine, theirs].map(byId)
  const merged = new Map<string, Dial>()
  for (const id of new Set([...t!.keys(), ...m!.keys()])) {
    const [was, a, c] = [b!.get(id), m!.get(id), t!.get(id)]
    const dial = mergeValue(['dials', id], was, a, c, choose) as Dial | undefined
    if (dial) merged.set(id, dial)
  }
  const ids = (dials: readonly Dial[]): string[] => dials.map(({ id }) => id)
  return mergeOrder(['dials', ROOT, 'order'], [...merged.keys()], ids(base), ids(mine), ids(theirs), choose).map((id) =>
    merged.get(id)!,
  )
}

/** New ids for things, by the ids they have. */
export interface Renames {
  readonly nodes: Map<string, string>
  readonly layers: Map<string, string>
  readonly taps: Map<string, string>
  readonly dials: Map<string, string>
}
export const noRenames = (): Renames => ({ nodes: new Map(), layers: new Map(), taps: new Map(), dials: new Map() })

/** Ids of a document, by kind. */
export const idsOf = (document: MaterialDocument): Record<keyof Renames, Set<string>> => ({
  nodes: new Set(Object.keys(document.nodes)),
  layers: new Set([...allLayers(document.layers)].map(({ id }) => id)),
  taps: new Set(Object.keys(document.taps)),
  dials: new Set(document.dials.map(({ id }) => id)),
})

/** The document with ids replaced, wherever they are named. */
export function renameIds(document: MaterialDocument, renames: Renames): MaterialDocument {
  if (Object.values(renames).every((map: Map<string, string>) => map.size === 0)) return document
  const { nodes, layers, taps, dials } = renames
  const to = (map: Map<string, string>, id: string): string => map.get(id) ?? id
  const address = (text: string): string => {
    const { node, port } = parsePort(text)
    return `${to(nodes, node)}.${port}`
  }
  const source = <T extends object>(one: T): T => {
    if ('node' in one) return { ...one, node: address(one.node as string) }
    return 'tap' in one ? { ...one, tap: to(taps, one.tap as string) } : one
  }
  const keys = <T>(map: Map<string, string>, record: Record<string, T>, change: (value: T) => T): Record<string, T> =>
    Object.fromEntries(Object.entries(record).map(([id, value]) => [to(map, id), change(value)]))
  const layer = (one: Layer): Layer => {
    const mask = one.mask.map((entry) => ({ ...entry, source: source(entry.source) }))
    const common = { id: to(layers, one.id), mask }
    if (one.kind === 'group') return { ...one, ...common, layers: one.layers.map(layer) }
    const cells = Object.entries(one.cells).map(([id, cell]) => [id, { ...cell, source: source(cell.source) }])
    return { ...one, ...common, cells: Object.fromEntries(cells) as typeof one.cells }
  }
  return {
    ...document,
    nodes: keys(nodes, document.nodes, (node) =>
      node.inputs
        ? {
            ...node,
            inputs: Object.fromEntries(
              Object.entries(node.inputs).map(([port, input]) => [
                port,
                typeof input === 'string' ? address(input) : source(input),
              ]),
            ),
          }
        : node,
    ),
    taps: keys(taps, document.taps, (tap) =>
      'node' in tap ? { ...tap, node: address(tap.node) } : { ...tap, layer: to(layers, tap.layer) },
    ),
    layers: document.layers.map(layer),
    dials: document.dials.map((dial) => ({
      ...dial,
      id: to(dials, dial.id),
      drives: dial.drives.map((drive) =>
        'node' in drive ? { ...drive, node: to(nodes, drive.node) } : { ...drive, layer: to(layers, drive.layer) },
      ),
    })),
  }
}
