import type { z } from 'zod'
import { GristError } from '../errors'
import type { MaterialDocument } from './document'
import { PARTS, checkDepth, checkInvariants, explainIssue } from './document'
import type { Patch } from './patches'
import { patched } from './patches'

type Json = Record<string, unknown>

/**
 * A sound document after an edit: only the parts that the patches touch are checked, and what no part can tell by itself once.
 * Gives the same as parseDocument of the whole, in time that goes by the edit. What was not touched is shared.
 * Throws document-invalid, naming the member, and whatever patches throw that lead nowhere.
 */
export function applyChecked(document: MaterialDocument, patches: readonly Patch[]): MaterialDocument {
  const next = patched(document, patches)
  checkDepth(next, { document: document.name })
  let checked = next as unknown as Json
  for (const part of touchedParts(patches)) checked = checkPart(checked, part, document.name)
  checkInvariants(checked as unknown as MaterialDocument)
  return checked as unknown as MaterialDocument
}

/** A member, and where a patch reaches into one of its entries alone, that entry. */
interface Part {
  readonly member: string
  readonly entry: string | number | null
}

const ENTRIES = ['nodes', 'frames', 'taps', 'layers', 'dials']

/** Parts that patches touch, each once; a whole member stands for its entries. */
function touchedParts(patches: readonly Patch[]): Part[] {
  const members = new Map<string, Set<string | number> | null>()
  for (const { path } of patches) {
    const [member, entry] = path
    if (member === undefined) throw new GristError('document-invalid', 'An edit cannot replace the whole document.')
    const name = String(member)
    const known = members.get(name)
    // Entries of lists move when one is put in or taken out, so then the list is looked at as a whole.
    const inside =
      ENTRIES.includes(name) && entry !== undefined && (path.length > 2 || !['layers', 'dials'].includes(name))
    if (!inside) members.set(name, null)
    else if (known === undefined) members.set(name, new Set([entry]))
    else known?.add(entry)
  }
  return [...members].flatMap(([member, entries]): Part[] =>
    entries === null ? [{ member, entry: null }] : [...entries].map((entry) => ({ member, entry })),
  )
}

const LIST_ENTRIES: Readonly<Record<string, z.ZodType>> = { layers: PARTS.layer, dials: PARTS.dial }

function checkPart(document: Json, { member, entry }: Part, name: string): Json {
  const place = { document: name }
  const schema = (PARTS.members as Readonly<Record<string, z.ZodType>>)[member]
  if (!schema) throw new GristError('document-invalid', `A document has no member "${member}".`, place)
  const value = document[member]
  if (entry === null) return { ...document, [member]: read(schema, value, [member], place) }
  const part = (value as Readonly<Record<string | number, unknown>>)[entry]
  // An entry that was taken out is gone.
  if (part === undefined) return document
  if (Array.isArray(value))
    return {
      ...document,
      [member]: value.with(Number(entry), read(LIST_ENTRIES[member]!, part, [member, Number(entry)], place)),
    }
  // By the member's own schema, which knows what entries may be called.
  return {
    ...document,
    [member]: { ...(value as Json), ...(read(schema, { [entry]: part }, [member], place) as Json) },
  }
}

function read(schema: z.ZodType, value: unknown, within: readonly PropertyKey[], place: { document: string }): unknown {
  const result = schema.safeParse(value)
  if (result.success) return result.data
  throw new GristError('document-invalid', explainIssue(result.error.issues[0]!, value, within), place)
}
