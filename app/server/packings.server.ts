import type { Packing } from '#core/maps/packing'
import { parsePacking } from '#core/maps/packing'
import { packings as shipped } from '#core/maps/packings/packings.generated'
import { database } from './database.server'
import { Problem } from './problem.server'

/** Packings a project may use: those shipped, then its own by name. */
export async function packingsOf(projectId: string): Promise<Packing[]> {
  const own = (await database()('packings').where({ project_id: projectId }).orderBy('name').select('packing')) as {
    packing: unknown
  }[]
  return [...shipped, ...own.map(({ packing }) => parsePacking(packing))]
}

/** Keeps a packing from a JSON text; one of the same name is replaced, a shipped one cannot be. */
export async function keepPacking(projectId: string, text: string): Promise<Packing> {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new Problem(400, `A packing is a JSON file: ${(error as Error).message}`)
  }
  const packing = parsePacking(json)
  if (shipped.some(({ name }) => name === packing.name))
    throw new Problem(409, `"${packing.name}" is a packing that is shipped. Give yours another name.`)
  await database()('packings')
    .insert({ project_id: projectId, name: packing.name, packing: JSON.stringify(packing) })
    .onConflict(['project_id', 'name'])
    .merge()
  return packing
}
