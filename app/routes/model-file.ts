import { writeGlb } from '#core/mesh/write-glb'
import { answeringJson, idFrom } from '../server/http/problem.server'
import { keptMesh, openModel } from '../server/models/models.server'
import type { Route } from './+types/model-file'

/** The model as GLB: the very triangles that are baked, with the layout that they are baked in. */
export const loader = ({ params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const { name, mesh } = await openModel(idFrom(params.modelId))
    return new Response(new Uint8Array(await writeGlb(await keptMesh(mesh))), {
      headers: {
        'Content-Type': 'model/gltf-binary',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${name}.glb`)}`,
      },
    })
  })
