import { existsSync } from 'node:fs'
import { GristError } from '#core/errors'
import type { Packing } from '#core/texture/packing'
import { readJson } from '#runtime/node/files'

/** A shipped packing by name, or one's own from a JSON file. */
export async function packingNamed(name: string): Promise<Packing> {
  const { packings } = await import('#core/texture/packings/packings.generated')
  const shipped = packings.find((one) => one.name === name)
  if (shipped) return shipped
  if (name.endsWith('.json') && existsSync(name))
    return (await import('#core/texture/packing')).parsePacking(readJson(name))
  throw new GristError(
    'packing-invalid',
    `There is no packing "${name}". There are: ${packings.map((one) => one.name).join(', ')}; or name a JSON file.`,
  )
}
