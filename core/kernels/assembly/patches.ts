/** Twins of core/field/patches.ts and coarse.ts: pictures of a part's islands from planes of its raster, and back. */

/**
 * Twin of gatherPlane: `runs` three i32 each (the first place in the picture, in the plane, how many), `entries` one u32 and `places` two
 * f32 each (a place in the picture, where it reads in the plane).
 */
export function gatherPlane(
  runs: usize,
  runCount: i32,
  entries: usize,
  places: usize,
  entryCount: i32,
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
  for (let i: usize = 0; i < <usize>entryCount; i++) {
    const x = load<f32>(places + (i << 3))
    const y = load<f32>(places + (i << 3), 4)
    const ix = Math.floor(x)
    const iy = Math.floor(y)
    const fx = <f64>x - ix
    const fy = <f64>y - iy
    const at = plane + ((<usize>(<i32>iy * width + <i32>ix)) << 2)
    const right: usize = fx > 0 ? 4 : 0
    const below: usize = fy > 0 ? line : 0
    const upper = <f64>load<f32>(at) * (1 - fx) + <f64>load<f32>(at + right) * fx
    const lower = <f64>load<f32>(at + below) * (1 - fx) + <f64>load<f32>(at + below + right) * fx
    store<f32>(out + ((<usize>load<u32>(entries + (i << 2))) << 2), <f32>(upper * (1 - fy) + lower * fy))
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
