import { Growing } from '../../growing'
import { copiedInto } from '../../field/copied-into'
import type { Allocate } from '../../field/field'
import type { PatchSet } from '../../field/patches'
import { BOX } from '../../field/patches'
import type { IslandReads } from './around-islands'
import type { Meetings } from './strips'
import type { Stretches } from './stretches'
import { inStretches } from './stretches'

const NONE = new Int32Array(0)
const NO_NUMBERS = new Uint32Array(0)
const NO_BYTES = new Uint8Array(0)
const NO_STRETCHES: Stretches = { stretches: NO_NUMBERS, ratios: new Float32Array(0) }

/** A raster on which meetings are: how many texels a row has, and all. */
export interface Raster {
  readonly columns: number
  readonly size: number
}

/** Collects patches, whose sizes are not known before. */
export class PatchWriter {
  private readonly boxes = new Growing(Int32Array)
  private readonly runs = new Growing(Int32Array)
  private readonly beyond = new Growing(Int32Array)

  /** Begins the patch of an island; `taps` tells which of them are its. */
  begin({ boxes, firsts, entries }: IslandReads, island: number, taps: Pick<Meetings, 'firsts'>): void {
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
    const ends = [taps.firsts[island]!, taps.firsts[island + 1]!]
    for (const value of [stretch, this.beyond.length / 2, from, to, ...ends]) this.boxes.add(value)
  }

  run(to: number, from: number, length: number): void {
    this.runs.add(to)
    this.runs.add(from)
    this.runs.add(length)
  }

  private close(): void {
    if (this.boxes.length > 0) this.boxes.set(this.boxes.length - 7, this.runs.length / 3)
  }

  /** `read` lies in memory that is allocated so already; `more` is what the set holds besides. */
  finish(
    reach: number,
    allocate: Allocate,
    { fineOwners = NONE, owners = NONE, nearest = NONE, links = NO_NUMBERS, fraction = 0 }: Partial<PatchSet>,
    made: {
      readonly read?: IslandReads
      readonly taps?: readonly [Meetings, Raster]
      readonly feet?: readonly [Meetings, Raster]
    } = {},
  ): PatchSet {
    this.close()
    const kept = <T extends Int32Array | Uint32Array | Uint8Array | Float32Array>(values: T): T =>
      copiedInto(allocate, values)
    const laid = (
      [one, raster]: readonly [Meetings, Raster] | readonly [] = [],
      how: 'in turn' | 'at once',
    ): Stretches => (one ? inStretches(one.texels, one.weights, raster!, how) : NO_STRETCHES)
    const [mixes, fades] = [laid(made.taps, 'in turn'), laid(made.feet, 'at once')]
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
      reads: made.read?.reads ?? kept(NO_BYTES),
      taps: kept(made.taps?.[0].reads ?? NO_BYTES),
      mixes: kept(mixes.stretches),
      ratios: kept(mixes.ratios),
      feet: kept(made.feet?.[0].reads ?? NO_BYTES),
      fades: kept(fades.stretches),
      fadeRatios: kept(fades.ratios),
      nearest: kept(nearest),
    }
  }
}

function largestFirst(boxes: Int32Array): Uint32Array {
  const size = (patch: number): number => boxes[patch * BOX + 2]! * boxes[patch * BOX + 3]!
  return Uint32Array.from({ length: boxes.length / BOX }, (_, i) => i).sort((a, b) => size(b) - size(a) || a - b)
}
