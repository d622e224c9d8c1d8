import type { ErrorPlace } from '../errors'
import { GristError, show } from '../errors'
import { upgradeFrom1 } from './upgrades/1'

type Json = Record<string, unknown>
/** UPGRADES[n] brings a document of version n to n + 1. */
export type Upgrades = Readonly<Record<number, (document: Json) => Json>>

export const DOCUMENT_FORMAT = 'amber-grist/material'
export const DOCUMENT_VERSION = 2

/** Each comes with a stored sample of the old version (samples/), which a test evaluates. */
export const UPGRADES: Upgrades = { 1: upgradeFrom1 }

/** Brings any older version up step by step. Throws document-invalid, or document-too-new above `latest`. */
export function upgradeDocument(
  json: unknown,
  place: ErrorPlace,
  upgrades: Upgrades = UPGRADES,
  latest = DOCUMENT_VERSION,
): Json {
  if (json === null || typeof json !== 'object' || Array.isArray(json))
    throw new GristError(
      'document-invalid',
      `Expected a material document (a JSON object) but received ${show(json)}.`,
      place,
    )
  let document = json as Json
  if (document.format !== DOCUMENT_FORMAT)
    throw new GristError(
      'document-invalid',
      `Expected format "${DOCUMENT_FORMAT}" but received ${show(document.format)}.`,
      place,
    )
  const { version } = document
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1)
    throw new GristError('document-invalid', `Expected a whole version number but received ${show(version)}.`, place)
  if (version > latest)
    throw new GristError(
      'document-too-new',
      `This document is of version ${version}; this program reads up to ${latest}. Update it.`,
      place,
    )
  for (let at = version; at < latest; at++) {
    const step = upgrades[at]
    if (!step) throw new GristError('document-invalid', `There is no way up from version ${at}.`, place)
    document = { ...step(document), version: at + 1 }
  }
  return document
}
