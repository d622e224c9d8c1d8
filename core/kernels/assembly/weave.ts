/**
 * Twin of a row of weaveRows (core/kernels/weave.ts). `threads` holds the warp of each texel within the cycle, `cover` and
 * `section` what it covers and how round it is there, in float64; `warpRises` how each warp of the cycle rises in this row,
 * `weftRises` how this row's weft does along it. Outputs that nobody asks for are 0.
 */
export function weaveRow(
  width: i32,
  threads: usize,
  cover: usize,
  section: usize,
  warpRises: usize,
  weftRises: usize,
  weftCover: f64,
  weftSection: f64,
  roundness: f64,
  wave: f64,
  tops: usize,
  seen: usize,
  covers: usize,
): void {
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const wide = at << 1
    const warpCover = load<f64>(cover + wide)
    const rise = load<f64>(warpRises + ((<usize>load<u32>(threads + at)) << 3))
    const warpTop = heightOf(roundness, wave, warpCover, load<f64>(section + wide), rise)
    const weftTop = heightOf(roundness, wave, weftCover, weftSection, load<f64>(weftRises + wide))
    if (tops) store<f32>(tops + at, <f32>(warpTop > weftTop ? warpTop : weftTop))
    if (seen) store<f32>(seen + at, warpTop > weftTop ? 1 : 0)
    if (covers) store<f32>(covers + at, <f32>(warpCover > weftCover ? warpCover : weftCover))
  }
}

function heightOf(roundness: f64, wave: f64, cover: f64, section: f64, z: f64): f64 {
  const round = 1 - roundness + roundness * section
  return cover * (0.5 * wave * (0.5 + 0.5 * z) + (1 - 0.5 * wave) * (0.35 + 0.65 * round))
}
