import { Growing } from '../../growing'
import { copiedInto } from '../../field/copied-into'
import type { Allocate } from '../../field/field'
import type { PatchSet } from '../../field/patches'
import { BOX } from '../../field/patches'
import type { Read } from '../../field/reads'
import { fractionOf, newRead, packRead } from '../../field/reads'
import type { IslandReads } from './around-islands'
import type { Meetings } from './strips'
import { MEETING } from './strips'

const NONE = new Int32Array(0)
const NO_LINKS = new Uint32Array(0)

/** Collects patches, whose sizes are not known before. */
export class PatchWriter {
  private readonly boxes = new Growing(Int32Array)
  private readonly runs = new Growing(Int32Array)
  private readonly beyond = new Growing(Int32Array)
  private readonly taps = new Growing(Uint32Array)
  /** In the order of taps. */
  private readonly texels = new Growing(Uint32Array)
  private readonly ratios = new Growing(Float32Array)
  private readonly tap = new Uint32Array(2)

  /** Begins the patch of an island. */
  begin({ boxes, firsts, entries }: IslandReads, island: number): void {
    this.close()
    const { left, top, width, height } = boxes[island]!
    const [from, to] = [firsts[island]!, firsts[island + 1]!]
    const stretch = this.beyond.length / 2
    for (let i = from; i < to;) {
      const first = entries[i]!
      let length = 1
      while (i + length < to && entries[i + length] === first + length) length++
      this.beyond.add(first)
      this.beyond.add(length)
      i += length
    }
    for (const value of [left, top, width, height, this.runs.length / 3, 0]) this.boxes.add(value)
    for (const value of [stretch, this.beyond.length / 2, from, to, this.texels.length, 0]) this.boxes.add(value)
  }

  run(to: number, from: number, length: number): void {
    this.runs.add(to)
    this.runs.add(from)
    this.runs.add(length)
  }

  /** The taps of meetings in the last patch; places that it does not hold are left out. */
  addTaps({ wholes, numbers }: Meetings): void {
    const box = this.boxes.length - BOX
    const [left, top, width, height] = [0, 1, 2, 3].map((k) => this.boxes.at(box + k)) as [
      number,
      number,
      number,
      number,
    ]
    const fraction = fractionOf(width, height)
    const read = newRead()
    for (let i = 0; i < numbers.length; i += MEETING) {
      const ratio = numbers[i + 1]!
      read.x = numbers[i + 2]! - 0.5 - left
      read.y = numbers[i + 3]! - 0.5 - top
      const isHeld = read.x >= 0 && read.y >= 0 && read.x < width - 1 && read.y < height - 1
      if (!isHeld || !(ratio > 0)) continue
      turnInto(numbers[i + 4]!, numbers[i + 5]!, numbers[i + 6]!, numbers[i + 7]!, read)
      packRead(this.tap, 0, fraction, read)
      this.taps.add(this.tap[0]!)
      this.taps.add(this.tap[1]!)
      this.texels.add(wholes[i]!)
      this.ratios.add(ratio)
    }
  }

  private close(): void {
    if (this.boxes.length === 0) return
    this.boxes.set(this.boxes.length - 7, this.runs.length / 3)
    this.boxes.set(this.boxes.length - 1, this.texels.length)
  }

  /** `read` lies in memory that is allocated so already; `more` is what the set holds besides. */
  finish(
    reach: number,
    allocate: Allocate,
    { fineOwners = NONE, owners = NONE, nearest = NONE, links = NO_LINKS, fraction = 0 }: Partial<PatchSet>,
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
    const kept = <T extends Int32Array | Uint32Array | Float32Array>(values: T): T => copiedInto(allocate, values)
    return {
      reach,
      coarse: 1,
      fraction,
      fineOwners: kept(fineOwners),
      owners: kept(owners),
      links: kept(links),
      boxes: kept(this.boxes.all),
      order: kept(largestFirst(this.boxes.all)),
      runs: kept(this.runs.all),
      beyond: kept(this.beyond.all),
      reads: read?.reads ?? kept(new Uint32Array(0)),
      taps: kept(this.taps.all),
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

/** The turn of the nearest rigid motion (polar decomposition in the plane), mirrored first where the map mirrors. */
function turnInto(a: number, b: number, c: number, d: number, out: Read): void {
  const mirror = a * d - b * c < 0 ? -1 : 1
  const cosine = a + mirror * d
  const sine = c - mirror * b
  const length = Math.sqrt(cosine * cosine + sine * sine)
  out.mirror = mirror
  out.cosine = length > 0 ? cosine / length : 1
  out.sine = length > 0 ? sine / length : 0
}
