import { Growing } from '../../growing'
import type { Allocate } from '../../field/field'
import type { PatchSet } from '../../field/patches'
import { BOX } from '../../field/patches'
import type { Meetings } from './strips'
import type { Landing } from './walk'
import { turnInto } from './walk'

/** Collects patches, whose sizes are not known before. */
export class PatchWriter {
  private readonly boxes = new Growing(Int32Array)
  private readonly runs = new Growing(Int32Array)
  private readonly entries = new Growing(Uint32Array)
  private readonly places = new Growing(Float32Array)
  private readonly turns = new Growing(Float32Array)
  private readonly taps = new Growing(Float32Array)
  private readonly tapTurns = new Growing(Float32Array)
  /** In the order of taps. */
  private readonly texels = new Growing(Uint32Array)
  private readonly ratios = new Growing(Float32Array)

  begin(left: number, top: number, width: number, height: number): void {
    this.close()
    for (const value of [left, top, width, height, this.runs.length / 3, 0]) this.boxes.add(value)
    for (const value of [this.entries.length, 0, this.texels.length, 0]) this.boxes.add(value)
  }

  run(to: number, from: number, length: number): void {
    this.runs.add(to)
    this.runs.add(from)
    this.runs.add(length)
  }

  entry(at: number, x: number, y: number, { a, b, c, d }: Landing): void {
    this.entries.add(at)
    this.places.add(x)
    this.places.add(y)
    turnInto(a, b, c, d, this.turns)
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
    this.boxes.set(this.boxes.length - 3, this.entries.length)
    this.boxes.set(this.boxes.length - 1, this.texels.length)
  }

  finish(reach: number, allocate: Allocate): PatchSet {
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
      fineOwners: kept(new Int32Array(0)),
      owners: kept(new Int32Array(0)),
      links: kept(new Uint32Array(0)),
      boxes: kept(this.boxes.all),
      order: kept(largestFirst(this.boxes.all)),
      runs: kept(this.runs.all),
      entries: kept(this.entries.all),
      places: kept(this.places.all),
      turns: kept(this.turns.all),
      taps: kept(this.taps.all),
      tapTurns: kept(this.tapTurns.all),
      mixes: kept(mixes),
      ratios: kept(ratios),
      nearest: kept(new Int32Array(0)),
    }
  }
}

function largestFirst(boxes: Int32Array): Uint32Array {
  const size = (patch: number): number => boxes[patch * BOX + 2]! * boxes[patch * BOX + 3]!
  return Uint32Array.from({ length: boxes.length / BOX }, (_, i) => i).sort((a, b) => size(b) - size(a) || a - b)
}

type Kept = Int32Array | Uint32Array | Float32Array

/** The same numbers in memory that is given for them. */
export function keptIn<T extends Kept>(allocate: Allocate, values: T): T {
  const { buffer, byteOffset } = allocate(Math.max(4, values.byteLength))
  const View = values.constructor as new (buffer: ArrayBufferLike, at: number, length: number) => T
  const own = new View(buffer, byteOffset, values.length)
  own.set(values)
  return own
}
