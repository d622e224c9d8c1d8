import {
  FIT,
  INDICES,
  LOWEST,
  MODES,
  climb,
  fitAt,
  fitLine,
  modeAt,
  setEffort,
  setForm,
  setPlanes,
} from './block-bc7-fit'
import { nextPartition, partitionsAt, setRests, setTerms } from './block-bc7-partitions'
import { PLANE, readBlock, texels, workAt } from './block-texels'

/*
 * Texels of blocks as BC7, in any of its eight modes: candidates are tried with the fits of block-bc7-fit.ts, of the partitions that
 * block-bc7-partitions.ts finds; the nearest is written.
 * Source of the layout: Khronos Data Format Specification 1.3, chapter 20; the search is our own.
 */

/** A candidate: its mode, partition, rotation and which of its sets of indices is whose, its error, and three fits. */
const PARTITION: usize = 4
const ROTATION: usize = 8
const SELECTION: usize = 12
const SCORE: usize = 16
const FITS: usize = 32
const CANDIDATE: usize = FITS + 3 * FIT

/** For each partition of two, then of three subsets: the subset of each texel; then the anchor of each subset, in a byte each. */
let subsetsAt: usize = 0
/** Masks of the subsets of the partition at hand, sixteen numbers each, and of all texels. */
let masksAt: usize = 0
let allAt: usize = 0
/** The candidate at hand, and the nearest so far. */
let attemptAt: usize = 0
let winnerAt: usize = 0
/** The texels with two channels changed. */
let turnedAt: usize = 0

function begin(mode: i32, partition: i32, rotation: i32, selection: i32): void {
  store<i32>(attemptAt, mode)
  store<i32>(attemptAt + PARTITION, partition)
  store<i32>(attemptAt + ROTATION, rotation)
  store<i32>(attemptAt + SELECTION, selection)
}

function keep(error: f32): void {
  if (error >= load<f32>(winnerAt + SCORE)) return
  memory.copy(winnerAt, attemptAt, CANDIDATE)
  store<f32>(winnerAt + SCORE, error)
}

/** Masks of the subsets of a partition. */
function setMasks(subsets: i32, partition: i32): void {
  const owners = subsetsAt + <usize>(subsets == 3 ? 64 : 0) * 16 + <usize>partition * 16
  for (let i: usize = 0; i < 16; i++) {
    const own = <i32>load<u8>(owners + i)
    for (let s: i32 = 0; s < subsets; s++) store<f32>(masksAt + <usize>s * PLANE + (i << 2), own == s ? 1 : 0)
  }
}

/** All texels along one line each of some subsets. */
function tryPartition(mode: i32, partition: i32): void {
  const subsets = modeAt(mode, 0)
  begin(mode, partition, 0, 0)
  if (subsets > 1) setMasks(subsets, partition)
  setForm(mode, 0, modeAt(mode, 5) ? 4 : 3, modeAt(mode, 8))
  setPlanes(texels)
  let error: f32 = 0
  for (let s: i32 = 0; s < subsets; s++) {
    error += fitLine(attemptAt + FITS + <usize>s * FIT, subsets > 1 ? masksAt + <usize>s * PLANE : allAt)
    if (error >= load<f32>(winnerAt + SCORE)) return
  }
  keep(error)
}

/** Colour along one line and a channel of its own along another: alpha, or one that changes places with it. */
function tryApart(mode: i32, rotation: i32, selection: i32): void {
  turn(rotation)
  begin(mode, 0, rotation, selection)
  const colours = modeAt(mode, selection ? 9 : 8)
  setForm(mode, 0, 3, colours)
  let error = fitLine(attemptAt + FITS, allAt)
  if (error >= load<f32>(winnerAt + SCORE)) return
  setForm(mode, 3, 4, modeAt(mode, selection ? 8 : 9))
  error += fitLine(attemptAt + FITS + FIT, allAt)
  keep(error)
}

/** Sets the texels at hand to those with a channel and alpha changed. */
function turn(rotation: i32): void {
  setPlanes(texels)
  if (rotation == 0) return
  memory.copy(turnedAt, texels, 4 * PLANE)
  const other = <usize>(rotation - 1) * PLANE
  memory.copy(turnedAt + other, texels + 3 * PLANE, PLANE)
  memory.copy(turnedAt + 3 * PLANE, texels + other, PLANE)
  setPlanes(turnedAt)
}

/** Looks for the nearest block. `effort`: 0 is quick, 1 usual, 2 the best. */
function search(effort: i32): void {
  store<f32>(winnerAt + SCORE, Infinity)
  const full = f32x4.splat(255)
  let opaque = true
  for (let i: usize = 0; i < PLANE; i += 16)
    if (v128.any_true(f32x4.ne(v128.load(texels + 3 * PLANE + i), full))) opaque = false
  const rounds = effort == 0 ? 1 : effort == 1 ? 2 : 4
  setEffort(rounds, effort > 0)
  tryPartition(6, 0)
  if (load<f32>(winnerAt + SCORE) == 0) return
  if (!opaque || effort > 0) {
    const turns = effort == 2 || (effort == 1 && !opaque) ? 4 : 1
    if (!opaque || effort == 2)
      for (let rotation: i32 = 0; rotation < turns; rotation++) {
        tryApart(5, rotation, 0)
        if (effort == 0) continue
        tryApart(4, rotation, 0)
        tryApart(4, rotation, 1)
      }
  }
  // What is this near already is left at that, unless it is to be the best.
  const enough: f32 = effort == 1 ? 12 : 0
  if (effort == 0 || load<f32>(winnerAt + SCORE) <= enough) return
  setTerms()
  setEffort(rounds, effort == 2)
  setRests(2)
  const pairs = effort == 1 ? 4 : 24
  for (let n: i32 = 0; n < pairs && load<f32>(winnerAt + SCORE) > enough; n++) {
    const partition = nextPartition(64)
    if (opaque) {
      tryPartition(1, partition)
      if (effort == 2 || n < 2) tryPartition(3, partition)
    } else tryPartition(7, partition)
  }
  if (!opaque || load<f32>(winnerAt + SCORE) <= enough * 4) return
  setRests(3)
  const triples = effort == 1 ? 1 : 12
  for (let n: i32 = 0; n < triples && load<f32>(winnerAt + SCORE) > enough; n++) {
    const partition = nextPartition(64)
    tryPartition(2, partition)
    if (partition < 16) tryPartition(0, partition)
  }
}

/** Moves the ends of the nearest block while that makes it nearer. */
function polish(climbs: i32): void {
  const mode = load<i32>(winnerAt)
  const subsets = modeAt(mode, 0)
  if (modeAt(mode, 9)) {
    turn(load<i32>(winnerAt + ROTATION))
    const selection = load<i32>(winnerAt + SELECTION)
    setForm(mode, 0, 3, modeAt(mode, selection ? 9 : 8))
    climb(winnerAt + FITS, allAt, climbs)
    setForm(mode, 3, 4, modeAt(mode, selection ? 8 : 9))
    climb(winnerAt + FITS + FIT, allAt, climbs)
    return
  }
  setPlanes(texels)
  if (subsets > 1) setMasks(subsets, load<i32>(winnerAt + PARTITION))
  setForm(mode, 0, modeAt(mode, 5) ? 4 : 3, modeAt(mode, 8))
  for (let s: i32 = 0; s < subsets; s++)
    climb(winnerAt + FITS + <usize>s * FIT, subsets > 1 ? masksAt + <usize>s * PLANE : allAt, climbs)
}

/** The block being written, from its lowest bit on. */
let low: u64 = 0
let high: u64 = 0
let place: u64 = 0

function put(value: u32, count: i32): void {
  const v = <u64>value
  if (place < 64) {
    low |= v << place
    if (place + <u64>count > 64) high |= v >> (64 - place)
  } else high |= v << (place - 64)
  place += <u64>count
}

/** An anchor's index has its highest bit left out: where it is set, the ends change places. */
function settle(fit: usize, anchor: i32, bits: i32): void {
  const top: f32 = <f32>((1 << bits) - 1)
  if (load<f32>(fit + INDICES + ((<usize>anchor) << 2)) * 2 < top) return
  const ends = v128.load(fit)
  v128.store(fit, v128.load(fit + 16))
  v128.store(fit + 16, ends)
  const p = load<i32>(fit + LOWEST)
  store<i32>(fit + LOWEST, load<i32>(fit + LOWEST + 4))
  store<i32>(fit + LOWEST + 4, p)
  for (let i: usize = 0; i < PLANE; i += 16)
    v128.store(fit + INDICES + i, f32x4.sub(f32x4.splat(top), v128.load(fit + INDICES + i)))
}

function putIndices(fit: usize, bits: i32): void {
  for (let i: usize = 0; i < 16; i++) put(<u32>load<f32>(fit + INDICES + (i << 2)), i == 0 ? bits - 1 : bits)
}

function write(out: usize): void {
  const mode = load<i32>(winnerAt)
  const partition = load<i32>(winnerAt + PARTITION)
  const selection = load<i32>(winnerAt + SELECTION)
  const subsets = modeAt(mode, 0)
  const indexBits = modeAt(mode, 8)
  const secondBits = modeAt(mode, 9)
  const fits = winnerAt + FITS
  const owners = subsetsAt + <usize>((subsets == 3 ? 64 : 0) + partition) * 16
  const anchors = subsetsAt + 128 * 16 + <usize>((subsets == 3 ? 64 : 0) + partition) * 4
  low = 0
  high = 0
  place = 0
  put(1 << mode, mode + 1)
  put(partition, modeAt(mode, 1))
  put(load<i32>(winnerAt + ROTATION), modeAt(mode, 2))
  put(selection, modeAt(mode, 3))
  if (secondBits) {
    settle(fits, 0, selection ? secondBits : indexBits)
    settle(fits + FIT, 0, selection ? indexBits : secondBits)
  } else
    for (let s: i32 = 0; s < subsets; s++)
      settle(fits + <usize>s * FIT, subsets > 1 ? <i32>load<u8>(anchors + <usize>s) : 0, indexBits)
  for (let c: i32 = 0; c < 4; c++) {
    const bits = c == 3 ? modeAt(mode, 5) : modeAt(mode, 4)
    if (bits == 0) continue
    for (let s: i32 = 0; s < subsets; s++) {
      const fit = fits + <usize>(secondBits && c == 3 ? 1 : s) * FIT + ((<usize>c) << 2)
      put(load<i32>(fit), bits)
      put(load<i32>(fit + 16), bits)
    }
  }
  for (let s: i32 = 0; s < subsets; s++) {
    const fit = fits + <usize>s * FIT + LOWEST
    if (modeAt(mode, 6)) {
      put(load<i32>(fit), 1)
      put(load<i32>(fit + 4), 1)
    } else if (modeAt(mode, 7)) put(load<i32>(fit), 1)
  }
  if (secondBits) {
    putIndices(selection ? fits + FIT : fits, indexBits)
    putIndices(selection ? fits : fits + FIT, secondBits)
  } else
    for (let i: i32 = 0; i < 16; i++) {
      const s = subsets > 1 ? <i32>load<u8>(owners + <usize>i) : 0
      const anchor = subsets > 1 ? <i32>load<u8>(anchors + <usize>s) : 0
      put(<u32>load<f32>(fits + <usize>s * FIT + INDICES + ((<usize>i) << 2)), anchor == i ? indexBits - 1 : indexBits)
    }
  store<u64>(out, low)
  store<u64>(out + 8, high)
}

/**
 * Rows of RGBA bytes as blocks of BC7. `told`: the eight modes; the subset of each texel for 64 partitions of two and 64 of three subsets, a
 * byte each; the anchors of their subsets, four bytes each; the texels of their second and third subsets as bits. `work` holds 8 kB.
 * `effort` is 0, 1 or 2.
 */
export function encodeBc7(rgba: usize, width: i32, rows: i32, effort: i32, told: usize, work: usize, out: usize): void {
  workAt(work)
  subsetsAt = told + MODES
  masksAt = work + 640
  allAt = masksAt + 3 * PLANE
  turnedAt = allAt + PLANE
  fitAt(told, turnedAt + 4 * PLANE)
  attemptAt = turnedAt + 4 * PLANE + 64 + FIT
  winnerAt = attemptAt + CANDIDATE
  partitionsAt(subsetsAt + 128 * 20, winnerAt + CANDIDATE)
  for (let i: usize = 0; i < PLANE; i += 16) v128.store(allAt + i, f32x4.splat(1))
  for (let by: i32 = 0; by * 4 < rows; by++)
    for (let bx: i32 = 0; bx * 4 < width; bx++) {
      readBlock(rgba, width, rows, bx, by)
      search(effort)
      if (effort == 2) polish(8)
      write(out)
      out += 16
    }
}
