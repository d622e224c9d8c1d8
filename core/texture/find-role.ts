import { isNormal, isTangentNormal } from '../document/channels'
import type { RasterImage } from '../field/pyramid'
import { curls, greenOf } from './normal-curl'
import type { Role } from './roles'
import { heldSlot, roleOfName, threeSlots } from './roles'

/** How a role became known: the file's name says it, its texels prove it, or they only suggest it. */
export type RoleBy = 'name' | 'texels' | 'guess'

export interface FoundRole extends Role {
  readonly by: RoleBy
  /** Which way green of a normal points, where its texels tell. */
  readonly green: 'up' | 'down' | null
  /** Of a file of floats: whether heights in it are metres from the surface, and not from 0 to 1. */
  readonly inMetres?: boolean
}

/** Texels of a plane that are looked at. */
const LOOKED = 65536
/** Nearer than this to 0 or 1 is at the end. */
const END = 0.04

/** What a plane's values are like. All 0–1 but of float files. */
interface PlaneLook {
  readonly mean: number
  /** Ratio of texels near 0, and near 1. */
  readonly low: number
  readonly high: number
  /** Values that one in a hundred lies below, and above. */
  readonly from: number
  readonly to: number
  /** Mean step to the right neighbour. */
  readonly step: number
}

/** What the texels of a file say of what they may be. */
export interface Evidence {
  readonly channels: 1 | 2 | 3 | 4
  /** More than 8 bits. */
  readonly isFine: boolean
  readonly isFloat: boolean
  readonly planes: readonly PlaneLook[]
  /** Pearson's r of R and G, G and B, R and B; none of a grey file. */
  readonly together: readonly number[]
  /** Three planes that hold the same. */
  readonly isGrey: boolean
  /** Ratio of texels that are of length one and face out, read as normals. */
  readonly unit: number
  /** Ratio of texels that are of length one, whichever way they face. */
  readonly round: number
  /** Which way green points, read as normals. */
  readonly green: 'up' | 'down' | null
}

/** Looks at a file's texels: the whole image, or stretches of whole rows of it. */
export function evidenceOf(pieces: readonly RasterImage[]): Evidence {
  const { channels, bits, float } = pieces[0]!
  const { unit, round } = channels < 3 ? { unit: 0, round: 0 } : unitRatios(pieces)
  const looks = looksOf(pieces)
  return {
    channels,
    isFine: bits > 8 || float,
    isFloat: float,
    planes: looks,
    together:
      channels < 3
        ? []
        : (
            [
              [0, 1],
              [1, 2],
              [0, 2],
            ] as const
          ).map(([a, b]) => correlation(pieces, a, b)),
    isGrey: channels < 3 || isSameThroughout(pieces),
    unit,
    round,
    green: unit > UNIT || lacksThird(looks) ? greenIn(pieces, unit <= UNIT) : null,
  }
}

/** The mean of each plane, held to 0–1. */
export const meansOf = ({ planes }: Evidence): number[] => planes.map(({ mean }) => Math.min(1, Math.max(0, mean)))

/** Whether a file that holds normals holds two channels of them only: a third plane is not there, or the same throughout. */
const lacksThird = (planes: readonly PlaneLook[]): boolean =>
  planes.length === 2 || (planes.length > 2 && planes[2]!.to - planes[2]!.from < 0.02)

/** A file with what its texels say, and how many they are. */
export interface JudgedFile {
  readonly name: string
  readonly evidence: Evidence
  readonly texels: number
}

/**
 * What the files of one set hold, each channel in one file: a name goes before texels, those before guesses, more texels before fewer.
 * What is left over holds nothing (no slots); null where nothing tells.
 */
export function findRoles(files: readonly JudgedFile[]): (FoundRole | null)[] {
  const found = files.map(({ name, evidence }) => findRole(name, evidence))
  const isColour = (role: FoundRole | null): boolean => role?.slots[0]?.channel === 'colour'
  const colours = files
    .map((file, i) => ({ i, role: found[i]!, rank: rankOf(found[i]!, file) + Math.min(...file.evidence.together, 1) }))
    .filter(({ role }) => isColour(role))
    .sort((a, b) => b.rank - a.rank)
  // Where one is the colour, another that was only guessed to be it may hold a grey each in its planes.
  for (const { i, role } of colours.slice(1))
    if (role.by === 'guess')
      found[i] = {
        ...role,
        transfer: 'raw',
        slots: likeliestGreys(files[i]!.evidence).map((channel) => heldSlot(channel)),
      }
  const taken = new Set<string>()
  const order = files.map((_, i) => i).sort((a, b) => rankOf(found[b]!, files[b]!) - rankOf(found[a]!, files[a]!))
  for (const i of order) {
    const role = found[i]
    if (!role) continue
    const held = new Set(role.slots.flatMap(({ channel }) => channel ?? []))
    if ([...held].some((channel) => taken.has(channel))) found[i] = { ...role, slots: [] }
    else held.forEach((channel) => taken.add(channel))
  }
  return found
}

const SURE: Readonly<Record<RoleBy, number>> = { name: 3, texels: 2, guess: 1 }
/** How much a role counts against another of the same channel. */
const rankOf = (role: FoundRole | null, { texels }: JudgedFile): number => (role ? SURE[role.by] * 1e10 + texels : 0)

/**
 * What a file of maps holds: by its name, else by its texels; then what those add: which way green points, and whether alpha
 * holds anything. Null where neither tells.
 */
export function findRole(name: string, evidence: Evidence): FoundRole | null {
  const isNormals = evidence.round > UNIT
  // Whose space normals are in is told by texels before a name: those of a model face inward too.
  const normals = evidence.unit < evidence.round - INWARD ? 'object-normal' : 'normal'
  const spoken = roleOfName(name)
  const said = spoken?.slots[0]?.channel
  const named = isNormals && said && isNormal(said) && said !== normals ? null : spoken
  const role = named ?? (isNormals ? { transfer: 'raw' as const, slots: threeSlots(normals) } : guessed(evidence))
  const by: RoleBy = named ? 'name' : isNormals ? 'texels' : 'guess'
  const found = withAlpha(ofTwo(role, evidence), evidence)
  const metres = evidence.isFloat ? { inMetres: isInMetres(found, evidence) } : {}
  return turned({ ...found, ...metres, by, green: null }, evidence)
}

/** Floats that go below 0, beyond 1, or through little of what lies between are no shares of a range. Own choice. */
function isInMetres({ slots }: Role, { planes }: Evidence): boolean {
  const held = slots.findIndex(({ channel }) => channel === 'height')
  const { from, to } = planes[Math.max(0, held)]!
  return from < -0.001 || to > 1.001 || to - from < 0.25
}

/** A role of normals with as many slots as the file has channels of them. */
function ofTwo(role: Role, { planes, unit }: Evidence): Role {
  if (role.slots[0]?.channel !== 'normal' || unit > UNIT || !lacksThird(planes)) return role
  const pair = [heldSlot('normal', 0), heldSlot('normal', 1)]
  return { ...role, slots: planes.length === 2 ? pair : [...pair, heldSlot(null)] }
}

/** Ratio of unit vectors above which texels are normals: they alone prove themselves. */
const UNIT = 0.95
/** Ratio of texels that face inward above which normals are those of a model's space: own choice, as none of a surface's do. */
const INWARD = 0.1

function unitRatios(pieces: readonly RasterImage[]): { unit: number; round: number } {
  let [unit, round, looked] = [0, 0, 0]
  eachTexel(pieces, ({ values }, i) => {
    const [x, y, z] = [0, 1, 2].map((c) => values[i + c]! * 2 - 1) as [number, number, number]
    const isUnit = Math.abs(Math.sqrt(x * x + y * y + z * z) - 1) < 0.06
    if (isUnit) round++
    if (isUnit && z > 0) unit++
    looked++
  })
  return { unit: unit / looked, round: round / looked }
}

/** What texels suggest, common practice: metal is near 0 or 1, occlusion mostly white, height of many bits or smooth over a wide range. */
function guessed(evidence: Evidence): Role {
  const { planes, isGrey, isFine } = evidence
  if (isGrey) return { transfer: 'raw', slots: [heldSlot(greyChannel(planes[0]!, isFine))] }
  return isPacked(evidence)
    ? { transfer: 'raw', slots: likeliestGreys(evidence).map((channel) => heldSlot(channel)) }
    : { transfer: 'srgb', slots: threeSlots('colour') }
}

function greyChannel(look: PlaneLook, isFine: boolean): string {
  const { low, high, mean, from, to, step } = look
  if (isMetal(look)) return high > 0.99 ? 'occlusion' : 'metallic'
  if (isFine) return 'height'
  if (mean > 0.75 && to > 0.96) return 'occlusion'
  if (low + high < 0.1 && to - from > 0.5 && step < 0.02 * (to - from)) return 'height'
  return 'roughness'
}

/** Near 0 or 1 nearly everywhere. */
const isMetal = ({ low, high }: PlaneLook): boolean => low + high > 0.9

/** Whether three planes go their own ways, one of them like metal and another like occlusion; those of a colour go together. */
function isPacked({ planes, together }: Evidence): boolean {
  if (together.some((r) => Math.abs(r) >= 0.7)) return false
  const metal = [0, 1, 2].find((plane) => isMetal(planes[plane]!) && planes[plane]!.high < 0.99)
  return metal !== undefined && [0, 1, 2].some((plane) => plane !== metal && planes[plane]!.to > 0.96)
}

/** Occlusion, roughness and metal in the order that suits three planes: metal is nearest to 0 and 1, occlusion the brighter of the others. */
function likeliestGreys({ planes }: Evidence): string[] {
  const of = (plane: number): PlaneLook => planes[plane]!
  const [metal] = [0, 1, 2].sort((a, b) => metalRank(of(b)) - metalRank(of(a)))
  const [occlusion] = [0, 1, 2].filter((plane) => plane !== metal).sort((a, b) => of(b).mean - of(a).mean)
  return [0, 1, 2].map((plane) => (plane === metal ? 'metallic' : plane === occlusion ? 'occlusion' : 'roughness'))
}
/** White throughout is no metal. */
const metalRank = ({ low, high }: PlaneLook): number => (high > 0.99 ? 0 : low + high * (low > 0 ? 1 : 0.5))

/** What alpha adds: opacity beside a colour, gloss beside metal; a plain one holds nothing. */
function withAlpha(role: Role, { planes }: Evidence): Role {
  const isPair = planes.length === 2 && role.slots[0]?.channel === 'normal'
  const slots = planes.length < 3 && !isPair ? role.slots.slice(0, 1) : role.slots.slice(0, planes.length)
  const alpha = planes.length === 4 ? planes[3]! : null
  if (!alpha) return { ...role, slots }
  const varies = alpha.to - alpha.from > 0.004
  if (!varies) return { ...role, slots: slots.slice(0, 3) }
  const first = slots[0]?.channel
  if (slots.length === 3 && first === 'colour') return { ...role, slots: [...slots, heldSlot('opacity')] }
  if (slots.length === 1 && first === 'metallic')
    return { ...role, slots: [...slots, heldSlot(null), heldSlot(null), heldSlot('roughness', 0, true)] }
  return { ...role, slots }
}

/** Green inverted where the texels bend like a surface only so. */
function turned(role: FoundRole, { green }: Evidence): FoundRole {
  if (!role.slots.some(({ channel }) => channel !== null && isTangentNormal(channel))) return role
  if (green !== 'down') return { ...role, green }
  const slots = role.slots.map((one) =>
    one.channel !== null && isTangentNormal(one.channel) && one.component === 1 ? { ...one, inverted: true } : one,
  )
  return { ...role, slots, green }
}

/** Which way green points; of two channels the third is what is left of length 1. */
function greenIn(pieces: readonly RasterImage[], ofTwoChannels: boolean): 'up' | 'down' | null {
  const sums = { up: 0, down: 0 }
  for (const { width, height, channels, values } of pieces) {
    const planes = [0, 1, 2].map((c) => {
      const plane = new Float32Array(width * height)
      for (let i = 0; i < plane.length; i++) {
        const at = i * channels
        plane[i] =
          c === 2 && ofTwoChannels
            ? Math.sqrt(Math.max(0, 1 - (values[at]! * 2 - 1) ** 2 - (values[at + 1]! * 2 - 1) ** 2))
            : values[at + c]! * 2 - 1
      }
      return plane
    }) as [Float32Array, Float32Array, Float32Array]
    const found = curls({ width, rows: height, planes }, false)
    sums.up += found.up
    sums.down += found.down
  }
  return greenOf(sums)
}

/** Calls with evenly spread texels; `i` is where a texel's values begin. */
function eachTexel(pieces: readonly RasterImage[], visit: (piece: RasterImage, i: number) => void): void {
  const whole = pieces.reduce((sum, { width, height }) => sum + width * height, 0)
  // An odd number of texels on, so that no column is left out of images whose width is a power of two.
  const step = Math.max(1, Math.ceil(whole / LOOKED) | 1)
  for (const piece of pieces)
    for (let t = 0; t < piece.width * piece.height; t += step) visit(piece, t * piece.channels)
}

function looksOf(pieces: readonly RasterImage[]): PlaneLook[] {
  const { channels } = pieces[0]!
  const of: number[][] = Array.from({ length: channels }, () => [])
  const steps = new Array<number>(channels).fill(0)
  eachTexel(pieces, ({ values, width, channels: n }, i) => {
    const next = (i / n) % width < width - 1 ? i + n : i
    for (let c = 0; c < channels; c++) {
      of[c]!.push(values[i + c]!)
      steps[c]! += Math.abs(values[next + c]! - values[i + c]!)
    }
  })
  return of.map((values, c) => {
    const sorted = Float32Array.from(values).sort()
    const count = sorted.length
    return {
      mean: sorted.reduce((sum, v) => sum + v, 0) / count,
      low: values.filter((v) => v < END).length / count,
      high: values.filter((v) => v > 1 - END).length / count,
      from: sorted[Math.floor(count * 0.01)]!,
      to: sorted[Math.min(count - 1, Math.floor(count * 0.99))]!,
      step: steps[c]! / count,
    }
  })
}

function isSameThroughout(pieces: readonly RasterImage[]): boolean {
  let same = true
  eachTexel(pieces, ({ values }, i) => {
    if (Math.abs(values[i]! - values[i + 1]!) > 0.01 || Math.abs(values[i]! - values[i + 2]!) > 0.01) same = false
  })
  return same
}

/** Pearson's r of two planes; 0 where one of them is constant. */
function correlation(pieces: readonly RasterImage[], a: number, b: number): number {
  let [n, sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0, 0]
  eachTexel(pieces, ({ values }, i) => {
    const [x, y] = [values[i + a]!, values[i + b]!]
    n++
    sa += x
    sb += y
    saa += x * x
    sbb += y * y
    sab += x * y
  })
  const spread = Math.sqrt(Math.max(0, saa / n - (sa / n) ** 2) * Math.max(0, sbb / n - (sb / n) ** 2))
  return spread < 1e-6 ? 0 : (sab / n - (sa / n) * (sb / n)) / spread
}
