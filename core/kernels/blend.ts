/** Modes of W3C Compositing and Blending Level 1, then those of our own. */
export const BLEND_MODES = [
  'normal',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'colour-dodge',
  'colour-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'hue',
  'saturation',
  'colour',
  'luminosity',
  'add',
  'subtract',
  'signed-add',
  'divide',
  'minimum',
  'maximum',
] as const
export type BlendMode = (typeof BLEND_MODES)[number]

const f = Math.fround
const unit = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v)

type Separable = (b: number, s: number) => number

const screen: Separable = (b, s) => f(f(b + s) - f(b * s))
const hardLight: Separable = (b, s) => (s <= 0.5 ? f(b * f(2 * s)) : screen(b, f(f(2 * s) - 1)))

/**
 * B(below, source) of the modes that treat each channel alone.
 * Source: W3C Compositing and Blending Level 1 (2015-01-13), section 9.1; operands are clamped to 0–1 there, except
 * for normal. add, subtract, divide, minimum, maximum are not clamped; signed-add is below + 2·source − 1.
 */
export const SEPARABLE: Partial<Record<BlendMode, Separable>> = {
  normal: (_, s) => s,
  multiply: (b, s) => f(unit(b) * unit(s)),
  screen: (b, s) => screen(unit(b), unit(s)),
  overlay: (b, s) => hardLight(unit(s), unit(b)),
  darken: (b, s) => Math.min(unit(b), unit(s)),
  lighten: (b, s) => Math.max(unit(b), unit(s)),
  'colour-dodge': (b0, s0) => {
    const b = unit(b0)
    const s = unit(s0)
    return b === 0 ? 0 : s === 1 ? 1 : Math.min(1, f(b / f(1 - s)))
  },
  'colour-burn': (b0, s0) => {
    const b = unit(b0)
    const s = unit(s0)
    return b === 1 ? 1 : s === 0 ? 0 : f(1 - Math.min(1, f(f(1 - b) / s)))
  },
  'hard-light': (b, s) => hardLight(unit(b), unit(s)),
  'soft-light': (b0, s0) => {
    const b = unit(b0)
    const s = unit(s0)
    if (s <= 0.5) return f(b - f(f(f(1 - f(2 * s)) * b) * f(1 - b)))
    const d = b <= 0.25 ? f(f(f(f(f(16 * b) - 12) * b) + 4) * b) : f(Math.sqrt(b))
    return f(b + f(f(f(2 * s) - 1) * f(d - b)))
  },
  difference: (b, s) => Math.abs(f(unit(b) - unit(s))),
  exclusion: (b0, s0) => {
    const b = unit(b0)
    const s = unit(s0)
    return f(f(b + s) - f(2 * f(b * s)))
  },
  add: (b, s) => f(b + s),
  subtract: (b, s) => f(b - s),
  'signed-add': (b, s) => f(b + f(f(2 * s) - 1)),
  divide: (b, s) => (s === 0 ? b : f(b / s)),
  minimum: (b, s) => Math.min(b, s),
  maximum: (b, s) => Math.max(b, s),
}

type Triple = [number, number, number]
const lum = ([r, g, b]: Triple): number => 0.3 * r + 0.59 * g + 0.11 * b
const sat = ([r, g, b]: Triple): number => Math.max(r, g, b) - Math.min(r, g, b)

function clipColour(c: Triple): Triple {
  const l = lum(c)
  const low = Math.min(...c)
  const high = Math.max(...c)
  return c.map((v) => {
    let out = v
    if (low < 0) out = l + ((out - l) * l) / (l - low)
    if (high > 1) out = l + ((out - l) * (1 - l)) / (high - l)
    return out
  }) as Triple
}

function setLum(c: Triple, l: number): Triple {
  const d = l - lum(c)
  return clipColour([c[0] + d, c[1] + d, c[2] + d])
}

function setSat(c: Triple, s: number): Triple {
  const low = Math.min(...c)
  const high = Math.max(...c)
  if (high === low) return [0, 0, 0]
  return c.map((v) => ((v - low) * s) / (high - low)) as Triple
}

/**
 * B(below, source) of the modes that treat the three channels together; operands clamped to 0–1.
 * Source: W3C Compositing and Blending Level 1, section 9.2.
 */
export const NON_SEPARABLE: Partial<Record<BlendMode, (b: Triple, s: Triple) => Triple>> = {
  hue: (b, s) => setLum(setSat(s, sat(b)), lum(b)),
  saturation: (b, s) => setLum(setSat(b, sat(s)), lum(b)),
  colour: (b, s) => setLum(s, lum(b)),
  luminosity: (b, s) => setLum(b, lum(s)),
}

/** What the triple modes come to where red, green and blue are one value: only luminosity takes the source's. */
export const greyForm = (mode: BlendMode): Separable =>
  SEPARABLE[mode] ?? (mode === 'luminosity' ? (_, s) => unit(s) : (b) => unit(b))

/** Clamped to 0–1, for operands of the triple modes. */
export const unitTriple = (r: number, g: number, b: number): Triple => [unit(r), unit(g), unit(b)]
