import { LRUCache } from 'lru-cache'
import type { PartFacts } from '../../document/domain'
import type { IslandPatches } from '../../engine/evaluate'
import type { IslandThreads } from '../../engine/island-threads'
import { islandsHere } from '../../engine/island-threads'
import { GristError } from '../../errors'
import type { PatchSet } from '../../field/patches'
import type { Mesh } from '../mesh'
import { partInTile } from '../tile-of-part'
import { Layouts } from './layout'
import { patchesOf } from './patches'
import type { Topology } from './topology'
import { topologyOf } from './topology'

/** Where meshes come from, by their hash. Throws mesh-data-missing. */
export interface MeshLoader {
  load(hash: string): Promise<Mesh>
}

const KEPT_TOPOLOGIES = 8

export const patchArrays = (set: PatchSet): ArrayBufferView[] =>
  (Object.values(set) as (ArrayBufferView | number)[]).filter((value) => typeof value !== 'number')

const bytesOf = (set: PatchSet): number => patchArrays(set).reduce((sum, { byteLength }) => sum + byteLength, 0)

/** What patches are made of but for their size. */
const layoutName = ({ mesh, part, uvSet, udim }: PartFacts): string => [mesh, part, uvSet, udim].join(' ')

/** Patches of parts, made when they are first asked for and kept while there is room: all of them, unless told otherwise. */
export class KeptPatches implements IslandPatches {
  private readonly layouts = new Layouts()
  private readonly topologies = new LRUCache<string, Topology>({ max: KEPT_TOPOLOGIES })
  private readonly known: LRUCache<string, PatchSet>
  private readonly making = new Map<
    string,
    { readonly set: Promise<PatchSet>; readonly isCancelled: (() => boolean)[] }
  >()

  constructor(
    private readonly meshes: MeshLoader,
    private readonly threads: IslandThreads = islandsHere(),
    /** Told of patches that are let go; an evaluation may read them still. */
    private readonly onDropped: (set: PatchSet) => void = () => {},
    budgetBytes = Number.MAX_SAFE_INTEGER,
  ) {
    this.known = new LRUCache({ maxSize: budgetBytes, sizeCalculation: bytesOf, dispose: onDropped })
  }

  /** Lets all go. */
  clear(): void {
    this.known.clear()
  }

  async get(
    part: PartFacts,
    width: number,
    height: number,
    reach: number,
    isCancelled: () => boolean,
  ): Promise<PatchSet> {
    const key = `${layoutName(part)} ${width} ${height} ${reach}`
    const known = this.known.get(key)
    if (known) return known
    const under = this.making.get(key)
    if (under) {
      under.isCancelled.push(isCancelled)
      return under.set
    }
    // One that is no longer wanted by whoever asked first may be by others.
    const wanted = [isCancelled]
    const giveUp = (): boolean => {
      if (!wanted.every((one) => one())) return false
      // Threads may be at it for a moment still: who asks from now on begins anew.
      if (this.making.get(key)?.isCancelled === wanted) this.making.delete(key)
      return true
    }
    const set = this.make(part, width, height, reach, giveUp)
    this.making.set(key, { set, isCancelled: wanted })
    try {
      const made = await set
      this.known.set(key, made)
      // What there is no room for is made again each time.
      if (!this.known.has(key)) this.onDropped(made)
      return made
    } finally {
      if (this.making.get(key)?.isCancelled === wanted) this.making.delete(key)
    }
  }

  private async make(
    part: PartFacts,
    width: number,
    height: number,
    reach: number,
    isCancelled: () => boolean,
  ): Promise<PatchSet> {
    return patchesOf(await this.topologyFor(part), width, height, reach, {
      ...{ threads: this.threads, layouts: this.layouts, isCancelled },
    })
  }

  private async topologyFor(facts: PartFacts): Promise<Topology> {
    const { mesh: hash, part, uvSet, udim, name } = facts
    const key = layoutName(facts)
    const known = this.topologies.get(key)
    if (known) return known
    const mesh = await this.meshes.load(hash)
    const own = mesh.parts[part]
    if (!own || uvSet >= own.uvSets)
      throw new GristError('mesh-data-missing', `The part “${name}” has no such UV set any more.`)
    const here = partInTile(mesh, part, uvSet, udim)
    const topology = topologyOf(here.mesh, here.mesh.parts[here.part]!, uvSet)
    this.topologies.set(key, topology)
    return topology
  }
}
