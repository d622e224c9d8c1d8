import { cutTextEnd } from '#core/cut-text'
import { startHash } from '#core/hash'
import { ask } from './ask'
import type { Asset } from '../contracts/asset'

/** SHA-256, a piece at a time; the browser's own wants the whole file at once, and is missing over plain HTTP. */
async function hashOf(file: File): Promise<string> {
  const hash = startHash()
  for (let at = 0; at < file.size; at += HASH_PIECE)
    hash.update(new Uint8Array(await file.slice(at, at + HASH_PIECE).arrayBuffer()))
  return hash.digest()
}
const HASH_PIECE = 4 << 20

/** The server gives up what stalls; a large file over a slow line may take an hour. */
const SEND = 3600_000

/** Sends a file with its hash. Gives the image as the library has it, or what went wrong, in words. */
export async function sendImage(file: File): Promise<Asset | string> {
  try {
    const sha256 = await hashOf(file)
    const response = await ask(
      `/assets?name=${encodeURIComponent(cutTextEnd(file.name, 200))}`,
      {
        method: 'POST',
        headers: { 'X-Content-SHA256': sha256 },
        body: file,
      },
      SEND,
    )
    return response.ok ? ((await response.json()) as Asset) : ((await response.json()) as { error: string }).error
  } catch {
    return `${file.name} could not be sent: cannot reach the server.`
  }
}
