import { nearestCovered } from '../padding'
import type { Cover } from './cover'
import { coverOf } from './cover'
import type { Topology } from './topology'
import type { Unfolding } from './unfolding'
import { unfold } from './unfolding'

/** The islands of a part on a raster. */
export class Layout {
  private nearest: Int32Array | null = null

  constructor(
    readonly topology: Topology,
    readonly unfolding: Unfolding,
    readonly cover: Cover,
  ) {}

  /** By texel of the raster the nearest that belongs to an island; −1 where there is none. */
  get nearestOwn(): Int32Array {
    return (this.nearest ??= this.findNearest())
  }

  private findNearest(): Int32Array {
    const { owner } = this.cover
    const isOwn = new Uint8Array(owner.length)
    for (let at = 0; at < isOwn.length; at++) isOwn[at] = Number(owner[at]! >= 0)
    return nearestCovered(isOwn, this.unfolding.width, this.unfolding.height)
  }
}

/** Texels of layouts that are kept: patches of several reaches on one raster are asked for one after the other, some with a coarser one. */
const KEPT_TEXELS = 1.5 * 2048 * 2048

/** Layouts of parts, the last ones kept unless they are large. */
export class Layouts {
  private kept: readonly Layout[] = []

  /** Throws what `breathe` throws, which is called now and then. */
  async get(topology: Topology, width: number, height: number, breathe: () => Promise<void>): Promise<Layout> {
    const isAsked = (one: Layout): boolean =>
      one.topology === topology && one.unfolding.width === width && one.unfolding.height === height
    const known = this.kept.find(isAsked)
    if (known) return known
    const unfolding = unfold(topology, width, height)
    const layout = new Layout(topology, unfolding, await coverOf(topology, unfolding, breathe))
    let left = KEPT_TEXELS
    this.kept = [layout, ...this.kept].filter(({ cover }) => (left -= cover.owner.length) >= 0)
    return layout
  }
}
