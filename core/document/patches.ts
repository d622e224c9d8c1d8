import { v4 as uuid } from 'uuid'
import { applyPatches, enablePatches, produceWithPatches } from 'immer'
import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { sameJson as same } from '#core/same-json'

enablePatches()

/** One change inside a document: what RFC 6902 calls add, remove and replace, the path as a list of keys. */
const patch = z.strictObject({
  op: z.enum(['add', 'remove', 'replace']),
  path: z.array(z.union([z.string().max(200), z.int().min(0).max(100000)])).max(64),
  value: z.unknown().optional(),
})
export type Patch = z.output<typeof patch>

/**
 * One edit, as it is saved: what changed, and how to take it back. An undo or redo names the edit it is about. An arrangement
 * says where nodes stand in the graph, which is no part of the material: it is never undone, and no state of its own.
 */
export const editSchema = z.strictObject({
  id: z.uuid(),
  kind: z.enum(['edit', 'undo', 'redo', 'arrange']),
  of: z.uuid().optional(),
  label: z.string().max(200),
  patches: z.array(patch).max(LIMITS.save.patches),
  inverse: z.array(patch).max(LIMITS.save.patches),
})
export type Edit = z.output<typeof editSchema>

/** Whether patches say nothing but where nodes stand. */
export const onlyArranges = (patches: readonly Patch[]): boolean =>
  patches.every(({ path }) => path[0] === 'nodes' && path[2] === 'at')

/** The document with patches applied; the given one stays. Throws where a path leads nowhere. */
export const patched = <T extends object>(document: T, patches: readonly Patch[]): T =>
  applyPatches(document, patches as never)

/** What `change` does to a copy of the document, as an edit. Null where it changes nothing. */
export function editOf<T extends object>(document: T, label: string, change: (draft: T) => unknown): Edit | null {
  // What the change returns is of no matter; Immer would take it for a document.
  const [, patches, inverse] = produceWithPatches(document, (draft) => void change(draft as T))
  if (patches.length === 0) return null
  return { id: uuid(), kind: 'edit', label, patches: patches as Patch[], inverse: inverse as Patch[] }
}

/** What leads from one document to another, as one edit: a drag is one patch with its inverse. */
export function joined(document: object, after: object, label: string): Edit | null {
  const { patches, inverse, keys } = differences(document, after)
  if (patches.length === 0) return null
  // Beyond what one save takes, whole members are replaced.
  const max = LIMITS.save.patches
  const [some, back] = patches.length > max ? whole(document, after, keys) : [patches, inverse.reverse()]
  return { id: uuid(), kind: 'edit', label, patches: some, inverse: back }
}

/** What leads from one document to another; parts that are the same object are not looked into. */
export const patchesBetween = (document: object, after: object): Patch[] => differences(document, after).patches

function differences(
  document: object,
  after: object,
): { patches: Patch[]; inverse: Patch[]; keys: ReadonlySet<string> } {
  const keys = new Set([...Object.keys(document), ...Object.keys(after)])
  const patches: Patch[] = []
  const inverse: Patch[] = []
  for (const key of keys) {
    const from = (document as Record<string, unknown>)[key]
    const to = (after as Record<string, unknown>)[key]
    if (same(from, to)) continue
    compare([key], from, to, patches, inverse)
  }
  return { patches, inverse, keys }
}

function whole(document: object, after: object, keys: ReadonlySet<string>): [Patch[], Patch[]] {
  const replacing = (from: object, to: object): Patch[] =>
    [...keys].flatMap((key): Patch[] => {
      const [old, value] = [from, to].map((one) => (one as Record<string, unknown>)[key])
      if (same(old, value)) return []
      if (value === undefined) return [{ op: 'remove', path: [key] }]
      return [{ op: old === undefined ? 'add' : 'replace', path: [key], value }]
    })
  return [replacing(document, after), replacing(after, document)]
}

/** Collects the smallest replacements; lists of different length are replaced whole. */
function compare(path: (string | number)[], from: unknown, to: unknown, patches: Patch[], inverse: Patch[]): void {
  const lists = Array.isArray(from) && Array.isArray(to)
  const objects = isRecord(from) && isRecord(to)
  if (lists ? from.length === to.length : objects) {
    const keys = lists
      ? from.map((_, i) => i)
      : [...new Set([...Object.keys(from as object), ...Object.keys(to as object)])]
    for (const key of keys) {
      const a = (from as Record<string | number, unknown>)[key]
      const b = (to as Record<string | number, unknown>)[key]
      if (!same(a, b)) compare([...path, key], a, b, patches, inverse)
    }
    return
  }
  patches.push(
    to === undefined ? { op: 'remove', path } : { op: from === undefined ? 'add' : 'replace', path, value: to },
  )
  inverse.push(
    from === undefined ? { op: 'remove', path } : { op: to === undefined ? 'add' : 'replace', path, value: from },
  )
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Edits that can be undone and redone, newest last. Undoing appends: nothing is ever taken out of the history. */
export interface Stacks<T> {
  readonly undo: readonly T[]
  readonly redo: readonly T[]
}

/** Works the stacks out from a history in order; `of` names an edit by its id. */
export function stacksOf<T extends { id: string; kind: string; of?: string | null }>(history: readonly T[]): Stacks<T> {
  const undo: T[] = []
  const redo: T[] = []
  for (const entry of history) {
    if (entry.kind === 'start') {
      // What was done before speaks of another version of the document.
      undo.length = 0
      redo.length = 0
    } else if (entry.kind === 'edit') {
      undo.push(entry)
      redo.length = 0
    } else if (entry.kind === 'undo' && undo.at(-1)?.id === entry.of) redo.push(undo.pop()!)
    else if (entry.kind === 'redo' && redo.at(-1)?.id === entry.of) undo.push(redo.pop()!)
  }
  return { undo, redo }
}
