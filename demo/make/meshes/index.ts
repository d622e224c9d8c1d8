import type { Mesh } from '#core/mesh/mesh'
import type { ChartAtlas } from '#core/mesh/unwrap'
import { repack, unwrap } from '#core/mesh/unwrap'
import { depthBoard } from './depth-board'
import { floatDrum } from './float-drum'
import { handWheel } from './hand-wheel'
import { sedgeBank } from './sedge-bank'
import { tarpaulin } from './tarpaulin'
import { testBody } from './test-body'

/** A model of the demo: what is baked onto, and its high twin. */
export interface DemoModel {
  readonly name: string
  readonly low: Mesh
  /** None: its own faces are what is baked. */
  readonly high: Mesh | null
}

/** Texels that islands of the demo's models are laid out for, and how many lie between them: 8 at 1024. Packing takes longer the larger it is. */
const LAYOUT = { size: 256, spacing: 2 }

/** Models of Lantern Sluice. The wheel has two faults in its layout, so that there is something to cure: its bolts lie over one another, and its spindle is packed too tightly. */
export async function demoModels(newAtlas: () => ChartAtlas): Promise<DemoModel[]> {
  const packed = async (mesh: Mesh, spacing = LAYOUT.spacing, parts = mesh.parts): Promise<Mesh> =>
    repack(mesh, parts, { ...LAYOUT, spacing, uvSet: 0, newAtlas })
  const wheel = handWheel(false)
  const [body, spindle] = [
    wheel.parts.filter(({ name }) => name !== 'Spindle'),
    wheel.parts.filter(({ name }) => name === 'Spindle'),
  ]
  const laid = await packed(wheel, LAYOUT.spacing, body)
  const tight = await packed(
    laid,
    0.5,
    laid.parts.filter(({ name }) => name === spindle[0]!.name),
  )
  return [
    { name: 'Hand wheel', low: stacked(tight, 'Bolts', 5), high: handWheel(true) },
    { name: 'Float drum', low: await packed(floatDrum(false)), high: floatDrum(true) },
    { name: 'Depth board', low: await packed(depthBoard(false)), high: depthBoard(true) },
    { name: 'Tarpaulin', low: await packed(tarpaulin(false)), high: tarpaulin(true) },
    { name: 'Sedge bank', low: sedgeBank(), high: null },
    { name: 'Test body', low: await unwrapped(testBody(false), newAtlas), high: testBody(true) },
  ]
}

const unwrapped = (mesh: Mesh, newAtlas: () => ChartAtlas): Promise<Mesh> =>
  unwrap(mesh, mesh.parts, { ...LAYOUT, newAtlas })

/** A part made of `count` equal pieces, all with the UVs of the first. */
function stacked(mesh: Mesh, name: string, count: number): Mesh {
  const part = mesh.parts.find((one) => one.name === name)!
  const uvs = mesh.uvSets[0]!.slice()
  const each = (part.count / count) * 3
  for (let i = each; i < part.count * 3; i++) {
    const [from, to] = [mesh.triangles[part.from * 3 + (i % each)]!, mesh.triangles[part.from * 3 + i]!]
    uvs.set(mesh.uvSets[0]!.subarray(from * 2, from * 2 + 2), to * 2)
  }
  return { ...mesh, uvSets: [uvs, ...mesh.uvSets.slice(1)] }
}
