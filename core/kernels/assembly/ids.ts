import { hashNumber } from './random'

/**
 * Twin of dealtValues (core/kernels/ids.ts) for a run of texels: which of `count` sources each ID is dealt, by its hash in
 * `stream` where `shuffles`.
 */
export function dealSources(ids: usize, out: usize, texels: i32, count: u32, stream: u32, shuffles: bool): void {
  for (let i: usize = 0; i < (<usize>texels) << 2; i += 4) {
    const id = load<u32>(ids + i)
    store<u32>(out + i, (shuffles ? hashNumber(<i32>(stream + id)) : id) % count)
  }
}

/** Of each texel the value of the source that it was dealt; `sources` holds where they lie. */
export function takeDealt(dealt: usize, sources: usize, out: usize, texels: i32): void {
  for (let i: usize = 0; i < (<usize>texels) << 2; i += 4) {
    const source = <usize>load<u32>(sources + ((<usize>load<u32>(dealt + i)) << 2))
    store<f32>(out + i, load<f32>(source + i))
  }
}

/** Twin of valuesById (core/kernels/ids.ts). */
export function valuesById(ids: usize, table: usize, out: usize, texels: i32): void {
  for (let i: usize = 0; i < (<usize>texels) << 2; i += 4)
    store<f32>(out + i, load<f32>(table + ((<usize>load<u32>(ids + i)) << 2)))
}

/** Twin of a row of placesWithin (core/kernels/ids.ts): `boxes` holds left, top, width and height by ID, in float64. */
export function placesWithin(ids: usize, boxes: usize, u: usize, v: usize, width: i32, row: f64, height: f64): void {
  const texels = <f64>width
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const id = load<u32>(ids + at)
    const box = boxes + ((<usize>id) << 5)
    const across = <f64>x - load<f64>(box)
    const down = row - load<f64>(box, 8)
    const inside = id != 0
    store<f32>(u + at, inside ? <f32>((across - Math.floor(across / texels) * texels + 0.5) / load<f64>(box, 16)) : 0)
    store<f32>(v + at, inside ? <f32>((down - Math.floor(down / height) * height + 0.5) / load<f64>(box, 24)) : 0)
  }
}
