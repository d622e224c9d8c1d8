type Own<A> = A extends Float32Array ? Float32Array<ArrayBuffer> : Uint32Array<ArrayBuffer>

/** Some numbers of each of these places, one after the other. */
export function gathered<A extends Float32Array | Uint32Array>(places: Uint32Array, values: A, each: number): Own<A> {
  const make = values.constructor as new (length: number) => Own<A>
  const out = new make(places.length * each)
  for (let i = 0, at = 0; i < places.length; i++) {
    const from = places[i]! * each
    for (let k = 0; k < each; k++) out[at++] = values[from + k]!
  }
  return out
}
