import { z } from 'zod'
import { GristError, show } from '../errors'
import { LIMITS } from '../limits'
import { BLEND_MODES } from '../kernels/blend'
import { domain } from './domain'
import { surface } from './surface'
import { DOCUMENT_VERSION, upgradeDocument } from './upgrade'

const id = z
  .string()
  .regex(/^[A-Za-z][A-Za-z0-9_-]{0,63}$/, 'a name of letters, digits, - and _, beginning with a letter')
const text = z.string().max(200)
const note = z.string().max(2000)
const hex = z.string().regex(/^#[0-9a-fA-F]{6}$/, 'a colour as "#rrggbb"')
const ratio = z.number().min(0).max(1)
const portAddress = z
  .string()
  .regex(/^[A-Za-z][A-Za-z0-9_-]{0,63}\.[A-Za-z][A-Za-z0-9_-]{0,63}$/, 'an address as "node.port"')
const off = z.boolean().optional()

/** A value: one number, or a colour. */
const value = z.union([z.number().min(-1e6).max(1e6), hex])

const source = z.union([
  z.strictObject({ value }),
  z.strictObject({ node: portAddress }),
  z.strictObject({ tap: id }),
  z.strictObject({ backdrop: id }),
])

const node = z.strictObject({
  type: z.string().max(64),
  version: z.int().min(1).max(1e6).optional(),
  name: text.optional(),
  params: z.record(id, z.unknown()).optional(),
  inputs: z.record(id, z.union([portAddress, source])).optional(),
  at: z.tuple([z.number(), z.number()]).optional(),
  note: note.optional(),
  amount: ratio.optional(),
  frame: id.optional(),
  off,
})

const cell = z.strictObject({
  source,
  blend: z.enum([...BLEND_MODES, 'replace', 'combine']).default('normal'),
  amount: ratio.default(1),
  encoding: z.enum(['srgb', 'linear']).default('srgb'),
  off,
})

const maskEntry = z.strictObject({
  source,
  mode: z.enum(BLEND_MODES).default('multiply'),
  amount: ratio.default(1),
  invert: z.boolean().default(false),
  /** In a group with the entry under it: they become one mask before they meet the rest. */
  joined: z.boolean().optional(),
  off,
})

const shared = {
  id,
  name: text,
  note: note.optional(),
  amount: ratio.default(1),
  mask: z.array(maskEntry).max(LIMITS.document.maskEntries).default([]),
  off,
}

const plainLayer = z.strictObject({
  kind: z.enum(['layer', 'correction']),
  ...shared,
  cells: z.record(id, cell).default({}),
})

export type Source = z.output<typeof source>
export type DocumentNode = z.output<typeof node>
export type Cell = z.output<typeof cell>
export type MaskEntry = z.output<typeof maskEntry>
export type PlainLayer = z.output<typeof plainLayer>
export interface Group extends Omit<PlainLayer, 'kind' | 'cells'> {
  kind: 'group'
  closed: boolean
  layers: Layer[]
}
export type Layer = PlainLayer | Group

const group = z.strictObject({
  kind: z.literal('group'),
  ...shared,
  closed: z.boolean().default(false),
  layers: z.lazy((): z.ZodType<Layer[]> => z.array(layer).max(LIMITS.document.layers)),
})

const layer = z.discriminatedUnion('kind', [plainLayer, group]) as unknown as z.ZodType<Layer>

const tap = z.union([
  z.strictObject({ name: text.optional(), node: portAddress }),
  z.strictObject({ name: text.optional(), layer: id, channel: id }),
  z.strictObject({ name: text.optional(), layer: id, mask: z.literal(true) }),
])

/** What a dial sets: a node's parameter, how much of a node shows (its effect), or an amount or value in a layer. */
const drive = z.union([
  z.strictObject({ node: id, field: text, scale: z.number().default(1), offset: z.number().default(0) }),
  z.strictObject({
    node: id,
    part: z.literal('effect'),
    field: z.literal('amount'),
    scale: z.number().default(1),
    offset: z.number().default(0),
  }),
  z.strictObject({
    layer: id,
    field: z.literal('amount'),
    scale: z.number().default(1),
    offset: z.number().default(0),
  }),
  z.strictObject({
    layer: id,
    channel: id,
    field: z.enum(['amount', 'value', 'blend']),
    scale: z.number().default(1),
    offset: z.number().default(0),
  }),
  z.strictObject({
    layer: id,
    entry: z.int().min(0),
    field: z.enum(['amount', 'value', 'mode', 'invert']),
    scale: z.number().default(1),
    offset: z.number().default(0),
  }),
])

const dialValue = z.union([z.number(), z.string().max(200), z.boolean()])

const dial = z.strictObject({
  id,
  label: text,
  section: text.optional(),
  help: text.optional(),
  kind: z.enum(['number', 'whole', 'colour', 'choice', 'switch', 'seed', 'image']).default('number'),
  unit: z.string().max(16).optional(),
  min: z.number().optional(),
  max: z.number().optional(),
  options: z.array(text).max(64).optional(),
  default: dialValue,
  value: dialValue,
  /** The value of the project that it follows. */
  shared: text.optional(),
  drives: z.array(drive).max(LIMITS.document.drives),
})

/** Values of dials under a name, by their ids. */
const preset = z.strictObject({ name: text, values: z.record(id, dialValue) })

/** Nodes that belong together on the canvas name the frame around them. */
const frame = z.strictObject({ name: text })

const document = z.strictObject({
  format: z.literal('amber-grist/material'),
  version: z.literal(DOCUMENT_VERSION),
  name: text,
  seed: z.int().min(0).max(4294967295).default(0),
  domain,
  heightMetres: z.number().min(0).max(1000).default(0.02),
  /** The normals of the layers hold the relief of the height already: nothing is added from it. */
  normalsHoldHeight: z.boolean().optional(),
  occlusion: z
    .strictObject({ radiusMetres: z.number().min(0.0001).max(100), strength: z.number().min(0).max(4) })
    .default({ radiusMetres: 0.05, strength: 1 }),
  emissionStrength: z.number().min(0).max(100000).default(1),
  surface,
  channels: z
    .record(id, z.strictObject({ title: text.optional(), type: z.enum(['grey', 'colour']), backdrop: value }))
    .default({}),
  nodes: z.record(id, node).default({}),
  layers: z.array(layer).max(LIMITS.document.layers).default([]),
  frames: z.record(id, frame).default({}),
  taps: z.record(id, tap).default({}),
  dials: z.array(dial).max(LIMITS.document.dials).default([]),
  presets: z.record(id, preset).default({}),
})

/** The parts of a document by themselves, for checking what an edit touches (checked-edit.ts). */
export const PARTS = { layer, dial, members: document.shape } as const

export type MaterialDocument = z.output<typeof document>
export type Dial = z.output<typeof dial>
export type DialPreset = z.output<typeof preset>
export type Drive = z.output<typeof drive>
export type Tap = z.output<typeof tap>

/**
 * Reads a document: upgrades old versions, checks every member, fills defaults in.
 * Throws document-invalid or document-too-new, naming the member, what was expected and what came.
 */
export function parseDocument(json: unknown, name?: string): MaterialDocument {
  const place = { document: name ?? nameOf(json) }
  const current = upgradeDocument(json, place)
  checkDepth(current, place)
  const result = document.safeParse(current)
  if (!result.success) throw new GristError('document-invalid', explainIssue(result.error.issues[0]!, current), place)
  checkInvariants(result.data)
  return result.data
}

function nameOf(json: unknown): string | undefined {
  const named = (json as { name?: unknown } | null)?.name
  return typeof named === 'string' ? named.slice(0, 60) : undefined
}

/** Throws document-invalid where groups lie too deep, before anything goes down into them. */
export function checkDepth(json: unknown, place: { document?: string }): void {
  if (groupDepth(json, 0) > LIMITS.document.groupDepth)
    throw new GristError('document-invalid', `Expected groups at most ${LIMITS.document.groupDepth} deep.`, place)
}

/** Depth of nested `layers`, without trusting anything else; stops a little above the limit. */
function groupDepth(json: unknown, depth: number): number {
  if (depth > LIMITS.document.groupDepth + 1) return depth
  const layers = (json as { layers?: unknown } | null)?.layers
  if (!Array.isArray(layers)) return depth
  let deepest = depth
  for (const one of layers) deepest = Math.max(deepest, groupDepth(one, depth + 1))
  return deepest
}

/** What no part of a document can tell by itself: counts, ids of layers, depth. Throws document-invalid. */
export function checkInvariants(doc: MaterialDocument): void {
  const place = { document: doc.name }
  const nodes = Object.keys(doc.nodes).length
  if (nodes > LIMITS.document.nodes)
    throw new GristError(
      'document-invalid',
      `Expected at most ${LIMITS.document.nodes} nodes but received ${nodes}.`,
      place,
    )
  const seen = new Set<string>()
  for (const one of allLayers(doc.layers)) {
    if (seen.has(one.id))
      throw new GristError('document-invalid', 'Two layers have this id; give one another.', {
        ...place,
        layer: one.id,
      })
    seen.add(one.id)
  }
  if (seen.size > LIMITS.document.layers)
    throw new GristError(
      'document-invalid',
      `Expected at most ${LIMITS.document.layers} layers but received ${seen.size}.`,
      place,
    )
}

/** Every layer and group, in order, groups before what they hold. */
export function* allLayers(layers: readonly Layer[]): Generator<Layer> {
  for (const one of layers) {
    yield one
    if (one.kind === 'group') yield* allLayers(one.layers)
  }
}

/** "layers[2].amount: expected … but received …" from a Zod issue. Unions report their nearest branch. */
export function explainIssue(issue: z.core.$ZodIssue, root: unknown, within: readonly PropertyKey[] = []): string {
  let deepest = issue
  let path = [...issue.path]
  while (deepest.code === 'invalid_union') {
    const branches = deepest.errors.flat()
    const next = branches.sort((a, b) => b.path.length - a.path.length)[0]
    if (!next) break
    deepest = next
    path = [...path, ...next.path]
  }
  const came = path.reduce<unknown>((at, key) => (at as Record<PropertyKey, unknown> | undefined)?.[key], root)
  const member = [...within, ...path]
    .map((key, i) => (typeof key === 'number' ? `[${key}]` : i ? `.${String(key)}` : String(key)))
    .join('')
  // Zod tells the kind of what came; what came tells more.
  const expected = deepest.message.replace(/, received [^,]*$/, '')
  return `${member ? `${member}: ` : ''}${expected}, received ${show(came)}.`
}
