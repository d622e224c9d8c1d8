/**
 * 128-bit digests of what steps compute, kept in one typed array: a change of one number gives thousands of steps a new
 * digest within a millisecond, which SHA-256 would take fifty for. They identify results within a program's run and are
 * never stored; records hold content keys (content-key.ts).
 * Source: the lanes and constants of MurmurHash3_x86_128 (A. Appleby, public domain), with the finish of its 32-bit mix.
 */
export class Digests {
  /** Eight words a step: four of what is its own, four of it and all that feeds it. */
  private words = new Uint32Array(8 * 256)

  /** Takes a step's own text (type, version, parameters, the ports it reads). */
  setOwn(step: number, text: string): void {
    if (8 * (step + 1) > this.words.length) {
      const wider = new Uint32Array(this.words.length * 2)
      wider.set(this.words)
      this.words = wider
    }
    let a = SEED_A ^ text.length
    let b = SEED_B
    let c = SEED_C
    let d = SEED_D
    for (let i = 0; i < text.length; i += 2) {
      const k = mixed(text.charCodeAt(i) | (text.charCodeAt(i + 1) << 16))
      const e = a ^ k
      a = (Math.imul((rotate(e, 19) + b) | 0, 5) + 0x561ccd1b) | 0
      b = (Math.imul(rotate(b ^ Math.imul(k, 0x38b34ae5), 17) + c, 5) + 0x0bcaa747) | 0
      c = (Math.imul(rotate(c ^ Math.imul(k, 0xa1e38b93), 15) + d, 5) + 0x96cd1c35) | 0
      d = (Math.imul(rotate(d ^ Math.imul(k, 0x85ebca6b), 13) + e, 5) + 0x32ac3b17) | 0
    }
    this.finish(8 * step, a, b, c, d)
  }

  /** Combines a step's own digest with those of the steps that feed it, in order. Gives the whole as eight characters. */
  combine(step: number, inputs: readonly number[]): string {
    const { words } = this
    const at = 8 * step
    let a = SEED_A ^ inputs.length
    let b = SEED_B
    let c = SEED_C
    let d = SEED_D
    for (let n = -1; n < inputs.length; n++) {
      const from = n < 0 ? at : 8 * inputs[n]! + 4
      for (let w = 0; w < 4; w++) {
        const k = mixed(words[from + w]!)
        const e = a ^ k
        a = (Math.imul((rotate(e, 19) + b) | 0, 5) + 0x561ccd1b) | 0
        b = (Math.imul(rotate(b ^ Math.imul(k, 0x38b34ae5), 17) + c, 5) + 0x0bcaa747) | 0
        c = (Math.imul(rotate(c ^ Math.imul(k, 0xa1e38b93), 15) + d, 5) + 0x96cd1c35) | 0
        d = (Math.imul(rotate(d ^ Math.imul(k, 0x85ebca6b), 13) + e, 5) + 0x32ac3b17) | 0
      }
    }
    this.finish(at + 4, a, b, c, d)
    return textOf(words, at + 4)
  }

  /** For each of the first `count` steps, the first of them with the same digest. */
  firstEqual(count: number): Int32Array {
    const { words } = this
    const first = new Int32Array(count)
    // Open addressing; the words are mixed well, so that any bits of them will do for a place. 0 is empty.
    const places = 1 << (Math.ceil(Math.log2(count + 1)) + 1)
    const table = new Int32Array(places)
    for (let i = 0; i < count; i++) {
      const at = 8 * i + 4
      let place = words[at]! & (places - 1)
      let known = table[place]! - 1
      while (known >= 0 && !sameWords(words, 8 * known + 4, at)) {
        place = (place + 1) & (places - 1)
        known = table[place]! - 1
      }
      if (known < 0) table[place] = i + 1
      first[i] = known < 0 ? i : known
    }
    return first
  }

  private finish(at: number, a: number, b: number, c: number, d: number): void {
    for (let round = 0; round < 2; round++) {
      a = scrambled(a + b + c + d)
      b = scrambled(b + a)
      c = scrambled(c + a)
      d = scrambled(d + a)
    }
    const { words } = this
    words[at] = a
    words[at + 1] = b
    words[at + 2] = c
    words[at + 3] = d
  }
}

// As signed numbers, so that all that is computed with them stays in small integers.
const SEED_A = 0x9747b28c | 0
const SEED_B = 0x3c6ef372 | 0
const SEED_C = 0xdaa66d2b | 0
const SEED_D = 0x78dde6e4 | 0

const mixed = (word: number): number => Math.imul(rotate(Math.imul(word, 0x239b961b), 15), 0xab0e9789)

const rotate = (word: number, by: number): number => (word << by) | (word >>> (32 - by))

function scrambled(word: number): number {
  let h = word ^ (word >>> 16)
  h = Math.imul(h, 0x85ebca6b)
  h ^= h >>> 13
  h = Math.imul(h, 0xc2b2ae35)
  return h ^ (h >>> 16)
}

const sameWords = (words: Uint32Array, a: number, b: number): boolean =>
  words[a] === words[b] &&
  words[a + 1] === words[b + 1] &&
  words[a + 2] === words[b + 2] &&
  words[a + 3] === words[b + 3]

/** Four words as eight characters of any kind: six times as fast as hex digits to make, and eight as a key of a map. */
const textOf = (words: Uint32Array, at: number): string =>
  String.fromCharCode(
    words[at]! & 0xffff,
    words[at]! >>> 16,
    words[at + 1]! & 0xffff,
    words[at + 1]! >>> 16,
    words[at + 2]! & 0xffff,
    words[at + 2]! >>> 16,
    words[at + 3]! & 0xffff,
    words[at + 3]! >>> 16,
  )
