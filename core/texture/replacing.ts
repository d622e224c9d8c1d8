import { workflowOf } from '../document/document-of-set'
import type { SetSlot } from '../document/document-of-set'
import type { FilePlan, Packing, SlotPlan } from './packing'
import { parsePacking } from './packing'

/** How a file is written, as a packing says it. */
export type FileForm = Pick<FilePlan, 'format' | 'bits' | 'block' | 'mips'>

/** A file that is to be replaced. */
export interface FileToReplace {
  readonly name: string
  readonly width: number
  readonly height: number
  readonly channels: number
  /** How it is written, or why it cannot be written alike. */
  readonly form: FileForm | { readonly problem: string }
  readonly transfer: FilePlan['transfer']
  /** What its channels hold; empty where nothing tells. */
  readonly slots: readonly SetSlot[]
  /** The mean of each of its planes, 0–1: what holds nothing that is known keeps it. */
  readonly means: readonly number[]
}

/** Files of one size, with the packing that makes them anew by their own names. */
export interface Replacement {
  readonly width: number
  readonly height: number
  readonly packing: Packing
}

/**
 * How files are made anew of other maps: each keeps its name, size, format, blocks, mips and what its channels hold. Files that hold what
 * is not among `channels` are left, with the reason; the largest size comes first.
 */
export function replacing(
  files: readonly FileToReplace[],
  channels: ReadonlySet<string>,
  title: string,
): { readonly replacements: Replacement[]; readonly left: { readonly name: string; readonly why: string }[] } {
  const left: { name: string; why: string }[] = []
  const sizes = new Map<string, { width: number; height: number; plans: FilePlan[] }>()
  const maps = new Set<string>()
  for (const file of files) {
    const { name, width, height, form, transfer } = file
    const held = heldIn(file, files)
    const holds = held.flatMap(({ channel }) => channel ?? [])
    const lacking = holds.find((channel) => !channels.has(channel))
    if ('problem' in form) left.push({ name, why: form.problem })
    else if (holds.length === 0) left.push({ name, why: 'nothing tells what it holds' })
    else if (lacking !== undefined) left.push({ name, why: `it holds ${lacking}, which the set has not` })
    else {
      const key = `${width} × ${height}`
      const size = sizes.get(key) ?? { width, height, plans: [] }
      sizes.set(key, size)
      size.plans.push({ map: mapOf(name, maps), name, transfer, ...form, slots: slotsOf(held, file, form) } as FilePlan)
    }
  }
  const replacements = [...sizes.values()]
    .sort((a, b) => b.width * b.height - a.width * a.height)
    .map(({ width, height, plans }) => ({
      ...{ width, height },
      packing: parsePacking({
        ...{ format: 'amber-grist/packing', version: 1, name: 'as-they-were', title, pattern: '{map}' },
        summary: 'Each file as the one that it replaces: its name, form, and what its channels hold.',
        files: plans,
      }),
    }))
  return { replacements, left }
}

/** What a file's channels hold: among specular colours the other colour is what is diffuse. */
export const heldIn = (
  { slots }: Pick<FileToReplace, 'slots'>,
  files: readonly Pick<FileToReplace, 'slots'>[],
): readonly SetSlot[] =>
  workflowOf(files) === 'spec-gloss'
    ? slots.map((slot) => (slot.channel === 'colour' ? { ...slot, channel: 'diffuse' } : slot))
    : slots

/** What packings call a file: what it is called itself, as far as they take it, and as no other is. */
function mapOf(name: string, taken: Set<string>): string {
  const stem = name
    .replace(/\.[^.]*$/, '')
    .replace(/[^A-Za-z0-9_-]+/g, '-')
    .slice(0, 56)
  let map = stem
  for (let n = 2; taken.has(map); n++) map = `${stem}-${n}`
  taken.add(map)
  return map
}

/** Slots of a file as it has channels: those that hold nothing keep what they are on the whole. */
function slotsOf(
  held: readonly SetSlot[],
  { channels, means }: Pick<FileToReplace, 'channels' | 'means'>,
  { block }: FileForm,
): SlotPlan[] {
  // Two-channel normals in blocks are written from three, of which the third goes nowhere.
  const count = block === 'bc5' ? 3 : channels === 2 ? 1 : channels
  const planOf = ({ component, inverted }: SetSlot, channel: string): SlotPlan => ({
    ...{ channel, component },
    invert: inverted,
  })
  return Array.from({ length: count }, (_, i): SlotPlan => {
    const slot = held[i]
    if (slot?.channel != null) return planOf(slot, slot.channel)
    // A grey that stands in all three planes.
    const [first] = held
    if (i < 3 && held.length === 1 && first?.channel != null) return planOf(first, first.channel)
    return { constant: means[i] ?? 1 }
  })
}
