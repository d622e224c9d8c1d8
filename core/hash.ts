import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'

/** SHA-256 of bytes, in lower-case hex. Source: FIPS 180-4, by @noble/hashes. */
export function hashBytes(bytes: Uint8Array): string {
  return bytesToHex(sha256(bytes))
}

/** SHA-256 of a string's UTF-8 bytes, in lower-case hex. */
export function hashText(text: string): string {
  return hashBytes(utf8ToBytes(text))
}

/** SHA-256 of bytes, as its 32 bytes. */
export const hashDigest = (bytes: Uint8Array): Uint8Array => sha256(bytes)

/** A hash that is fed piece by piece; for files too large to hold. */
export function startHash(): { update(bytes: Uint8Array): void; digest(): string } {
  const hash = sha256.create()
  return { update: (bytes) => void hash.update(bytes), digest: () => bytesToHex(hash.digest()) }
}

/**
 * JSON with sorted keys and no undefined members: equal values give equal text.
 * Source: the ordering rule of RFC 8785, section 3.2.3.
 */
export function canonicalJson(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null'
  const entries = Object.entries(value)
    .filter(([, member]) => member !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
  return `{${entries.map(([key, member]) => `${JSON.stringify(key)}:${canonicalJson(member)}`).join(',')}}`
}
