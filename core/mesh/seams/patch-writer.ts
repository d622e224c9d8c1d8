import { Growing } from '../../growing'
import type { Allocate } from '../../field/field'
import type { PatchSet } from '../../field/patches'
import { BOX } from '../../field/patches'
import type { GrownBox, IslandReads } from './around-islands'
import type { Meetings } from './strips'

const NONE = new Int32Array(0)
const NO_LINKS = new Uint32Array(0)

/** Collects patches, whose sizes are not known before. */
export class PatchWriter {
  private readonly boxes = new Growing(Int32Array)
  private readonly runs = new Growing(Int32Array)
  private readonly taps = new Growing(Float32Array)
  private readonly tapTurns = new Growing(Float32Array)
  /** In the order of taps. */
  private readonly texels = new Growing(Uint32Array)
  private readonly ratios = new Growing(Float32Array)

  /** Begins the patch of an island; `from` and `to` are the first of its entries and the one after the last. */
  begin({ left, top, width, height }: GrownBox, from: number, to: number): void {
    this.close()
    for (const value of [left, top, width, height, this.runs.length / 3, 0]) this.boxes.add(value)
    for (const value of [from, to, this.texels.length, 0]) this.boxes.add(value)
  }

  run(to: number, from: number, length: number): void {
    this.runs.add(to)
    this.runs.add(from)
    this.runs.add(length)
  }

  /** The tap of a meeting in the last patch; a place that it does not hold is left out. */
  tap({ texels, ratios, places, ways }: Meetings, meeting: number): void {
    const box = this.boxes.length - BOX
    const x = places[meeting * 2]! - 0.5 - this.boxes.at(box)
    const y = places[meeting * 2 + 1]! - 0.5 - this.boxes.at(box + 1)
    if (!(x >= 0 && y >= 0 && x < this.boxes.at(box + 2) - 1 && y < this.boxes.at(box + 3) - 1)) return
    this.taps.add(x)
    this.taps.add(y)
    const way = meeting * 4
    turnInto(ways[way]!, ways[way + 1]!, ways[way + 2]!, ways[way + 3]!, this.tapTurns)
    this.texels.add(texels[meeting]!)
    this.ratios.add(ratios[meeting]!)
  }

  private close(): void {
    if (this.boxes.length === 0) return
    this.boxes.set(this.boxes.length - 5, this.runs.length / 3)
    this.boxes.set(this.boxes.length - 1, this.texels.length)
  }

  /** `read` lies in memory that is allocated so already; `more` is what the set holds besides. */
  finish(
    reach: number,
    allocate: Allocate,
    { fineOwners = NONE, owners = NONE, nearest = NONE, links = NO_LINKS }: Partial<PatchSet>,
    read?: IslandReads,
  ): PatchSet {
    this.close()
    const texels = this.texels.all
    // By texel, then in the order of taps.
    const order = new Float64Array(texels.length)
    for (let tap = 0; tap < texels.length; tap++) order[tap] = texels[tap]! * 2 ** 24 + tap
    order.sort()
    const mixes = new Uint32Array(texels.length * 2)
    const ratios = new Float32Array(texels.length)
    for (let i = 0; i < order.length; i++) {
      const tap = order[i]! % 2 ** 24
      mixes[i * 2] = texels[tap]!
      mixes[i * 2 + 1] = tap
      ratios[i] = this.ratios.at(tap)
    }
    const kept = <T extends Kept>(values: T): T => keptIn(allocate, values)
    return {
      reach,
      coarse: 1,
      fineOwners: kept(fineOwners),
      owners: kept(owners),
      links: kept(links),
      boxes: kept(this.boxes.all),
      order: kept(largestFirst(this.boxes.all)),
      runs: kept(this.runs.all),
      entries: read?.entries ?? kept(new Uint32Array(0)),
      places: read?.reads ?? kept(new Float32Array(0)),
      turns: read?.turns ?? kept(new Float32Array(0)),
      taps: kept(this.taps.all),
      tapTurns: kept(this.tapTurns.all),
      mixes: kept(mixes),
      ratios: kept(ratios),
      nearest: kept(nearest),
    }
  }
}

function largestFirst(boxes: Int32Array): Uint32Array {
  const size = (patch: number): number => boxes[patch * BOX + 2]! * boxes[patch * BOX + 3]!
  return Uint32Array.from({ length: boxes.length / BOX }, (_, i) => i).sort((a, b) => size(b) - size(a) || a - b)
}

/** The turn of the nearest rigid motion (polar decomposition in the plane), mirrored first where the map mirrors: cosine, sine, ±1. */
function turnInto(a: number, b: number, c: number, d: number, out: Growing<Float32Array>): void {
  const mirror = a * d - b * c < 0 ? -1 : 1
  const cosine = a + mirror * d
  const sine = c - mirror * b
  const length = Math.sqrt(cosine * cosine + sine * sine)
  out.add(length > 0 ? cosine / length : 1)
  out.add(length > 0 ? sine / length : 0)
  out.add(mirror)
}

type Kept = Int32Array | Uint32Array | Float32Array

/** The same numbers in memory that is given for them. */
function keptIn<T extends Kept>(allocate: Allocate, values: T): T {
  const { buffer, byteOffset } = allocate(Math.max(4, values.byteLength))
  const View = values.constructor as new (buffer: ArrayBufferLike, at: number, length: number) => T
  const own = new View(buffer, byteOffset, values.length)
  own.set(values)
  return own
}
