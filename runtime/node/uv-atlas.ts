import { Atlas, Initialize } from 'watlas'
import type { ChartAtlas } from '#core/mesh/unwrap'

/** Atlases of the package watlas; it is started once, with the first. */
let ready: Promise<void> | null = null

export async function uvAtlases(): Promise<() => ChartAtlas> {
  await (ready ??= Initialize())
  return () => new (Atlas as unknown as new () => ChartAtlas)()
}
