import { fanAt, gather, raysOf } from './fan'
import { aim, dx, dy, dz, ox, oy, oz, turnTo } from './sample-frame'
import { PACKET, RAY, firstRays, hasMet, metAt, setRay, trace, wayX, wayY, wayZ } from './trace'

/* What rays in a cone about samples' normals tell: how open they are, how thick the model is below them, how much of the sky they see. */

/** So many rays share a fan, if they are those of so many samples at most. */
const SHARING_RAYS: i32 = 64
const MAX_SHARING: i32 = 16
/** Where the nodes lie that rays begin at, and those rays. */
let roots: usize = 0
let raysAt: usize = 0

/** How rays of samples go: which directions, how many of them a sample has, in how many groups, and what turns them (openness). */
let directionsAt: usize = 0
let raysOfSample: i32 = 0
let groupCount: u32 = 0
let turnsAt: usize = 0
let turnMaskOf: u32 = 0
/** Which side of the surface they go to (1 outward, −1 inward), how far off it they begin, and how far they go. */
let sideOf: f32 = 0
let biasOf: f32 = 0
let mostOf: f32 = 0
/** How many samples share a fan, and the least that directions go along the axis. */
let sharing: i32 = 1
let flattest: f32 = 0

/** Whose ray comes next: the sample, its number among all, and which of its rays that is. */
let sampleNext: usize = 0
let numberNext: u32 = 0
let rayNext: i32 = 0
/** Samples whose fan is still to be made, rays of the fan at hand that are still to be sent, and where its nodes end. */
let samplesLeft: i32 = 0
let raysLeft: i32 = 0
let fanEnd: usize = 0

/** Begins with the rays of `count` samples, the first of which has a number among all; nextRays gives them. */
function setCone(
  stack: usize,
  samples: usize,
  count: i32,
  first: u32,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  side: f32,
  bias: f32,
  most: f32,
): void {
  roots = fanAt(stack)
  raysAt = raysOf(stack)
  directionsAt = directions
  raysOfSample = rays
  groupCount = groups
  turnsAt = turns
  turnMaskOf = turnMask
  sideOf = side
  biasOf = bias
  mostOf = most
  sharing = min(MAX_SHARING, max(1, SHARING_RAYS / rays))
  let z: f32 = 1
  for (let i: i32 = 0; i < rays * <i32>groups; i++) z = min(z, load<f32>(directions + <usize>i * 12 + 8))
  // A little less, for what rounding may do.
  flattest = max<f32>(0, z - <f32>1e-4)
  sampleNext = samples
  numberNext = first
  rayNext = 0
  samplesLeft = count
  raysLeft = 0
}

/** Sets the next rays, those of one fan and a packet at most; their number, 0 after the last. */
function nextRays(nodes: usize, blocks: usize, stack: usize): i32 {
  if (raysLeft == 0) {
    const together = min(sharing, samplesLeft)
    if (together == 0) return 0
    samplesLeft -= together
    raysLeft = together * raysOfSample
    fanEnd = gather(nodes, blocks, stack, roots, sampleNext, together, sideOf, flattest, biasOf, mostOf)
  }
  const count = min(PACKET, raysLeft)
  raysLeft -= count
  let own: usize = 0
  for (let i: i32 = 0; i < count; i++) {
    if (i == 0 || rayNext == 0) {
      aim(sampleNext, sideOf, biasOf, numberNext, turnsAt, turnMaskOf)
      own = directionsAt + <usize>((numberNext % groupCount) * raysOfSample + rayNext) * 12
    }
    turnTo(own)
    own += 12
    setRay(raysAt, i, ox, oy, oz, dx, dy, dz, mostOf)
    if (++rayNext < raysOfSample) continue
    rayNext = 0
    sampleNext += 24
    numberNext++
  }
  return count
}

/**
 * How open samples are: of `rays` directions about each sample's normal, the share that meets nothing, and the sum of those that do not.
 * `samples`: place and normal, six numbers each. `directions`: x, y, z each about +Z, `groups` times as many as there are rays: a sample
 * takes the group of its number. `turns`: cosine and sine of angles, `turnMask` + 1 of them; each sample's directions are turned by the
 * one that its number, hashed, picks.
 * `out`: openness, the bent direction (not of length 1), and the share that goes up and meets nothing, five numbers a sample.
 */
export function openness(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  first: i32,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  bias: f32,
  most: f32,
  fade: f32,
  out: usize,
): void {
  setCone(stack, samples, count, first, directions, rays, groups, turns, turnMask, 1, bias, most)
  let to = out
  let done: i32 = 0
  let open: f32 = 0
  let sky: f32 = 0
  let sx: f32 = 0
  let sy: f32 = 0
  let sz: f32 = 0
  for (let some = nextRays(nodes, blocks, stack); some > 0; some = nextRays(nodes, blocks, stack)) {
    // With a fade what is far hides less: the nearest has to be known.
    trace(nodes, blocks, stack, roots, fanEnd, raysAt, firstRays(some), fade <= 0)
    for (let ray = raysAt, last = raysAt + <usize>some * RAY; ray < last; ray += RAY) {
      const isOpen = !hasMet(ray)
      const share: f32 = isOpen ? 1 : fade > 0 ? fadeOf(metAt(ray) / most, fade) : 0
      open += share
      if (isOpen && wayY(ray) > 0) sky += 1
      sx += wayX(ray) * share
      sy += wayY(ray) * share
      sz += wayZ(ray) * share
      if (++done < rays) continue
      store<f32>(to, open / <f32>rays)
      store<f32>(to, sx, 4)
      store<f32>(to, sy, 8)
      store<f32>(to, sz, 12)
      store<f32>(to, sky / <f32>rays, 16)
      done = 0
      open = sky = sx = sy = sz = 0
      to += 20
    }
  }
}

/** How little something at a share of the way hides: nothing of it at once, all of it from 1 − fade on. */
function fadeOf(share: f32, fade: f32): f32 {
  const from = <f32>1 - fade
  return share <= from ? 0 : (share - from) / fade
}

/**
 * Mean distance inward over a cone: `directions` about +Z, turned to look against each sample's normal; what meets nothing counts as
 * `most`. `out`: one number a sample.
 */
export function thickness(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  first: i32,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  bias: f32,
  most: f32,
  out: usize,
): void {
  setCone(stack, samples, count, first, directions, rays, groups, turns, turnMask, -1, bias, most)
  let to = out
  let done: i32 = 0
  let sum: f32 = 0
  for (let some = nextRays(nodes, blocks, stack); some > 0; some = nextRays(nodes, blocks, stack)) {
    trace(nodes, blocks, stack, roots, fanEnd, raysAt, firstRays(some), false)
    for (let ray = raysAt, last = raysAt + <usize>some * RAY; ray < last; ray += RAY) {
      sum += hasMet(ray) ? metAt(ray) + bias : most
      if (++done < rays) continue
      store<f32>(to, sum / <f32>rays)
      done = 0
      sum = 0
      to += 4
    }
  }
}

/** The share of `rays` directions about each sample's normal that go up and meet nothing; as openness in all else. */
export function skylight(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  first: i32,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  bias: f32,
  most: f32,
  out: usize,
): void {
  setCone(stack, samples, count, first, directions, rays, groups, turns, turnMask, 1, bias, most)
  let to = out
  let done: i32 = 0
  let open: f32 = 0
  for (let some = nextRays(nodes, blocks, stack); some > 0; some = nextRays(nodes, blocks, stack)) {
    let up: u32 = 0
    for (let k: i32 = 0; k < some; k++) up |= (<u32>(wayY(raysAt + <usize>k * RAY) > 0)) << (<u32>k)
    if (up) trace(nodes, blocks, stack, roots, fanEnd, raysAt, up, true)
    for (let k: i32 = 0; k < some; k++) {
      if ((up >> (<u32>k)) & 1 && !hasMet(raysAt + <usize>k * RAY)) open += 1
      if (++done < rays) continue
      store<f32>(to, open / <f32>rays)
      done = 0
      open = 0
      to += 4
    }
  }
}
