/**
 * Puts means of samples into their texels. Samples are in order of their texels (u32); `values` are one f32 each, or three where `y` and
 * `z` are given, NaN in the first of one that has none. Numbers (`isId`) are not mixed: the first sample's counts; directions (`isUnit`)
 * are brought to length 1, and those without become +Y. `known` (u8) becomes 1 at texels with a value. Gives how many have none.
 */
export function meansOfSamples(
  values: usize,
  texels: usize,
  count: i32,
  isId: bool,
  isUnit: bool,
  x: usize,
  y: usize,
  z: usize,
  known: usize,
): i32 {
  const each: usize = y ? 12 : 4
  const end = values + <usize>count * each
  let missed = 0
  for (let at = values; at < end;) {
    const texel = load<u32>(texels)
    let met: f64 = 0
    let a: f64 = 0
    let b: f64 = 0
    let c: f64 = 0
    for (; at < end && load<u32>(texels) == texel; at += each, texels += 4) {
      const first = <f64>load<f32>(at)
      if (first != first) continue
      if (isId && met > 0) continue
      met++
      a += first
      if (!y) continue
      b += <f64>load<f32>(at, 4)
      c += <f64>load<f32>(at, 8)
    }
    if (met == 0) {
      missed++
      continue
    }
    const to = (<usize>texel) << 2
    store<u8>(known + <usize>texel, 1)
    // An only one is its own mean.
    if (met > 1) a = <f64>(<f32>(a / met))
    if (y) {
      if (met > 1) {
        b = <f64>(<f32>(b / met))
        c = <f64>(<f32>(c / met))
      }
      if (isUnit) {
        const length = Math.sqrt(a * a + b * b + c * c)
        a = length > 0 ? a / length : 0
        b = length > 0 ? b / length : 1
        c = length > 0 ? c / length : 0
      }
      store<f32>(y + to, <f32>b)
      store<f32>(z + to, <f32>c)
    }
    store<f32>(x + to, <f32>a)
  }
  return missed
}
