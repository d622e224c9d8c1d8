import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { FIRST_TILE } from '#core/document/domain'
import type { Field } from '#core/field/field'
import type { Mesh } from '#core/mesh/mesh'
import { vertexResult } from '#core/mesh/vertex-result'
import type { ObjMaterial } from '#core/mesh/write-obj'
import { writeMtl, writeObj } from '#core/mesh/write-obj'
import { writePly } from '#core/mesh/write-ply'
import type { DeliveryRecord } from '#core/texture/record'

const [PLY_NAME, OBJ_NAME, MTL_NAME] = ['model.ply', 'model.obj', 'model.mtl']
export const VERTEX_NAMES: readonly string[] = [PLY_NAME!, OBJ_NAME!, MTL_NAME!]

/** The parts of a file set with the maps and the channel that was made of it. */
interface MadeSet {
  /** The part that it has its name of. */
  readonly part: number
  readonly udim?: number
  readonly parts: readonly { readonly part: number; readonly material: string }[]
  readonly field: Field
  readonly folder: string
  readonly files: DeliveryRecord['files']
}

/** A model with a channel of its materials as vertex colours. Sets are added in the order of their parts: those of one follow each other. */
export class VertexFiles {
  private coloured: Mesh
  private readonly materials = new Map<number, ObjMaterial>()
  /** What has come of the set's part at hand, by part and tile. */
  private owner = -1
  private tiles = new Map<number, Map<number, Field>>()

  constructor(
    private readonly mesh: Mesh,
    private readonly uvSet: number,
  ) {
    this.coloured = mesh
  }

  add({ part: owner, udim = FIRST_TILE, parts, field, folder, files }: MadeSet): void {
    if (owner !== this.owner) this.colour()
    this.owner = owner
    for (const { part, material } of parts) {
      this.tiles.set(part, (this.tiles.get(part) ?? new Map<number, Field>()).set(udim, field))
      // An OBJ has one picture for each map: of a part in several tiles those of the first.
      if (!this.materials.has(part)) this.materials.set(part, mapsOf(material, folder, files))
    }
  }

  /** Writes the model into a folder. Gives the names of its files. */
  async write(folder: string): Promise<readonly string[]> {
    this.colour()
    const materialOf = (part: number): string | null => this.materials.get(part)?.name ?? null
    const obj = writeObj(this.coloured, { uvSet: this.uvSet, library: MTL_NAME!, materialOf })
    await writeFile(join(folder, PLY_NAME!), writePly(this.coloured))
    await writeFile(join(folder, OBJ_NAME!), obj)
    await writeFile(join(folder, MTL_NAME!), writeMtl([...this.materials.values()]))
    return VERTEX_NAMES
  }

  /** Colours the parts at hand, and lets their pictures go. */
  private colour(): void {
    const data = [...this.tiles].map(([part, tiles]) => ({ part: this.mesh.parts[part]!, tiles }))
    this.coloured = vertexResult(this.coloured, this.uvSet, data)
    this.tiles = new Map()
  }
}

/** The maps that an OBJ can name: those whose channel is the first in its file, as it is meant. */
function mapsOf(name: string, folder: string, files: DeliveryRecord['files']): ObjMaterial {
  const found = (channel: string, planes: number): string | undefined => {
    const file = files.find(
      ({ slots }) =>
        (planes === 3 ? slots.length >= 3 : slots.length === 1) &&
        slots.slice(0, planes).every((slot, i) => slot.channel === channel && slot.component === i && !slot.inverted),
    )
    return file && `${folder}/${file.name}`
  }
  return {
    ...{ name, colour: found('colour', 3), normal: found('normal', 3), emission: found('emission', 3) },
    ...{ roughness: found('roughness', 1), metallic: found('metallic', 1), opacity: found('opacity', 1) },
  }
}
