import type { MeshDataInfo } from '../../contracts/model'
import type { ShownModel } from './addresses'
import { meshDataAddress } from './addresses'
import type { ModelLook, TilePictures } from './model-renderer.client'

/** How a view shows a model, with the addresses of the pictures that it needs. */
export function lookOf(
  model: ShownModel,
  view: Pick<ModelLook, 'surface' | 'shows' | 'cage' | 'isolated'> & {
    readonly part: number | null
    readonly kind: string | null
  },
): ModelLook {
  const { surface, shows, cage, isolated, part } = view
  const tiles = new Map<string, TilePictures>()
  const add = (one: MeshDataInfo, as: 'data' | 'normal' | 'occlusion'): void => {
    const key = `${one.part} ${one.udim}`
    const before = tiles.get(key) ?? { part: one.part, udim: one.udim }
    tiles.set(key, { ...before, [as]: meshDataAddress(model.id, one, 'picture') })
  }
  for (const one of model.data) {
    if (surface === 'data' && one.kind === view.kind) add(one, 'data')
    if (surface === 'baked' && (one.kind === 'normal' || one.kind === 'occlusion')) add(one, one.kind)
  }
  return { surface, shows, cage, isolated, part, pictures: [...tiles.values()] }
}
