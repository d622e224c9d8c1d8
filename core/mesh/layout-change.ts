import { z } from 'zod'
import { LIMITS } from '../limits'
import { bakeSettings } from './bake-settings'
import type { Mesh } from './mesh'
import { shiftOverlapping } from './shift-islands'
import type { ChartAtlas } from './unwrap'
import { repack, unwrap } from './unwrap'

/** A cure for the layout of some parts, by their numbers; `spacing` is texels between islands at `size`. */
export const layoutChange = z.strictObject({
  cure: z.enum(['unwrap', 'repack', 'shift']),
  parts: z.array(z.int().min(0).max(LIMITS.model.parts)).min(1).max(LIMITS.model.parts),
  uvSet: bakeSettings.shape.uvSet,
  size: bakeSettings.shape.size,
  spacing: z.int().min(1).max(256),
})

export type LayoutChange = z.output<typeof layoutChange>

/** The mesh with the layout of those parts cured. Throws mesh-invalid, cancelled. */
export async function changeLayout(
  mesh: Mesh,
  { cure, parts, uvSet, size, spacing }: LayoutChange,
  newAtlas: () => ChartAtlas,
): Promise<Mesh> {
  const chosen = mesh.parts.filter((_, i) => parts.includes(i))
  if (cure === 'shift') return shiftOverlapping(mesh, chosen, uvSet)
  const request = { size, spacing, uvSet, newAtlas }
  return cure === 'unwrap' ? unwrap(mesh, chosen, request) : repack(mesh, chosen, request)
}
