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

/** Sets how rays of samples go. */
function setCone(
  stack: usize,
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
}

/** The sample whose ray comes next, its number among all, and which of its rays that is. */
let sampleNext: usize = 0
let numberNext: u32 = 0
let rayNext: i32 = 0

/** Sets the next rays of a fan, `left` or a packet; their number. */
function nextRays(left: i32): i32 {
  const count = min(PACKET, left)
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

/** Begins with the rays of `together` samples: gathers what they can meet; the end of that. */
function beginFan(nodes: usize, blocks: usize, stack: usize, samples: usize, together: i32, number: u32): usize {
  sampleNext = samples
  numberNext = number
  rayNext = 0
  return gather(nodes, blocks, stack, roots, samples, together, sideOf, flattest, biasOf, mostOf)
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
  setCone(stack, directions, rays, groups, turns, turnMask, 1, bias, most)
  for (let i: i32 = 0; i < count; i += sharing) {
    const together = min(sharing, count - i)
    const end = beginFan(nodes, blocks, stack, samples + <usize>i * 24, together, first + i)
    let to = out + <usize>i * 20
    let done: i32 = 0
    let open: f32 = 0
    let sky: f32 = 0
    let sx: f32 = 0
    let sy: f32 = 0
    let sz: f32 = 0
    for (let left = together * rays; left > 0; left -= PACKET) {
      const some = nextRays(left)
      // With a fade what is far hides less: the nearest has to be known.
      trace(nodes, blocks, stack, roots, end, raysAt, firstRays(some), fade <= 0)
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
  setCone(stack, directions, rays, groups, turns, turnMask, -1, bias, most)
  for (let i: i32 = 0; i < count; i += sharing) {
    const together = min(sharing, count - i)
    const end = beginFan(nodes, blocks, stack, samples + <usize>i * 24, together, first + i)
    let to = out + ((<usize>i) << 2)
    let sum: f32 = 0
    let done: i32 = 0
    for (let left = together * rays; left > 0; left -= PACKET) {
      const some = nextRays(left)
      trace(nodes, blocks, stack, roots, end, raysAt, firstRays(some), false)
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
  setCone(stack, directions, rays, groups, turns, turnMask, 1, bias, most)
  for (let i: i32 = 0; i < count; i += sharing) {
    const together = min(sharing, count - i)
    const end = beginFan(nodes, blocks, stack, samples + <usize>i * 24, together, first + i)
    let to = out + ((<usize>i) << 2)
    let open: f32 = 0
    let done: i32 = 0
    for (let left = together * rays; left > 0; left -= PACKET) {
      const some = nextRays(left)
      let up: u32 = 0
      for (let k: i32 = 0; k < some; k++) up |= (<u32>(wayY(raysAt + <usize>k * RAY) > 0)) << (<u32>k)
      if (up) trace(nodes, blocks, stack, roots, end, raysAt, up, true)
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
}
