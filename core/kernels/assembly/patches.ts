import { READ_BYTES, valueOf } from './reads'

/** Twins of core/field/patches.ts and coarse.ts: pictures of a part's islands from planes of its raster, and back. */

/**
 * Twin of gatherPlane: `runs` three i32 each (the first place in the picture, in the plane, how many); `beyond` two i32 each (the first
 * place in the picture, how many), `reads` one for each of these.
 */
export function gatherPlane(
  runs: usize,
  runCount: i32,
  beyond: usize,
  beyondCount: i32,
  reads: usize,
  fraction: i32,
  plane: usize,
  width: i32,
  out: usize,
): void {
  for (let i = 0; i < runCount; i++, runs += 12)
    memory.copy(
      out + ((<usize>load<u32>(runs)) << 2),
      plane + ((<usize>load<u32>(runs, 4)) << 2),
      (<usize>load<u32>(runs, 8)) << 2,
    )
  const line = (<usize>width) << 2
  for (let i = 0; i < beyondCount; i++, beyond += 8) {
    let to = out + ((<usize>load<u32>(beyond)) << 2)
    const end = to + ((<usize>load<u32>(beyond, 4)) << 2)
    for (; to < end; to += 4, reads += READ_BYTES) store<f32>(to, <f32>valueOf(reads, fraction, plane, line))
  }
}

/** Twin of scatterPlane. */
export function scatterPlane(runs: usize, runCount: i32, plane: usize, out: usize): void {
  for (let i = 0; i < runCount; i++, runs += 12)
    memory.copy(
      out + ((<usize>load<u32>(runs, 4)) << 2),
      plane + ((<usize>load<u32>(runs)) << 2),
      (<usize>load<u32>(runs, 8)) << 2,
    )
}

/** Twin of fillPlane for texels `from` to `to`: those whose nearest (i32) is another one take its value. */
export function fillNearest(plane: usize, nearest: usize, out: usize, from: i32, to: i32): void {
  for (let i = from; i < to; i++) {
    const at = load<i32>(nearest + ((<usize>i) << 2))
    if (at != i && at >= 0) store<u32>(out + ((<usize>i) << 2), load<u32>(plane + ((<usize>at) << 2)))
  }
}

/**
 * The same of `count` planes (their offsets at `planes`) at once: those texels are looked for once, and told in `room`, two i32 each.
 */
export function fillAllNearest(planes: usize, count: i32, nearest: usize, from: i32, to: i32, room: usize): void {
  let end = room
  for (let i = from; i < to; i++) {
    const at = load<i32>(nearest + ((<usize>i) << 2))
    if (at == i || at < 0) continue
    store<i32>(end, i)
    store<i32>(end, at, 4)
    end += 8
  }
  for (let k = 0; k < count; k++) {
    const plane = <usize>load<u32>(planes + ((<usize>k) << 2))
    for (let one = room; one < end; one += 8)
      store<u32>(plane + ((<usize>load<u32>(one)) << 2), load<u32>(plane + ((<usize>load<u32>(one, 4)) << 2)))
  }
}
