/** What went wrong, as a stable word that programs may switch on. */
export type ErrorCode =
  | 'document-invalid'
  | 'document-too-new'
  | 'node-unknown'
  | 'parameter-invalid'
  | 'input-missing'
  | 'type-mismatch'
  | 'reference-unknown'
  | 'cycle'
  | 'size-invalid'
  | 'memory-budget'
  | 'asset-missing'
  | 'mesh-data-missing'
  | 'file-invalid'
  | 'file-unsupported'
  | 'mesh-invalid'
  | 'packing-invalid'
  | 'record-invalid'
  | 'cancelled'
  | 'usage'

/** Where it went wrong. Every part is optional; those present are printed in this order. */
export interface ErrorPlace {
  file?: string
  document?: string
  node?: string
  layer?: string
  dial?: string
  parameter?: string
  part?: string
  line?: number
  byte?: number
}

/**
 * The one error of the core: a code, a place, what was expected and what came.
 * Everything thrown on bad input is of this class; any other error is an internal one.
 */
export class GristError extends Error {
  constructor(
    readonly code: ErrorCode,
    readonly detail: string,
    readonly place: ErrorPlace = {},
  ) {
    super(describe(detail, place))
    this.name = 'GristError'
  }

  /** The same error with more of its place known; parts already known stay. */
  at(place: ErrorPlace): GristError {
    return new GristError(this.code, this.detail, { ...place, ...this.place })
  }
}

/** Adds a place to whatever GristError `work` throws. */
export function located<T>(place: ErrorPlace, work: () => T): T {
  try {
    return work()
  } catch (error) {
    throw error instanceof GristError ? error.at(place) : error
  }
}

function describe(detail: string, place: ErrorPlace): string {
  const parts = (['file', 'document', 'layer', 'node', 'dial', 'parameter', 'part', 'line', 'byte'] as const)
    .filter((key) => place[key] !== undefined)
    .map((key) => (key === 'file' ? `${place.file}` : `${key} ${JSON.stringify(place[key])}`))
  return parts.length ? `${parts.join(', ')}: ${detail}` : detail
}

/** A short picture of a value for error messages: never longer than a line. */
export function show(value: unknown): string {
  if (typeof value === 'number') return String(value)
  const text = JSON.stringify(value) ?? typeof value
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}
