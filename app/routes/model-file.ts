import { z } from 'zod'
import { writeGlb } from '#core/mesh/write-glb'
import { writePly } from '#core/mesh/write-ply'
import { answeringJson, checked, idFrom } from '../server/http/problem.server'
import { keptMesh, modelWithVertexColours, openModel } from '../server/models/models.server'
import type { Route } from './+types/model-file'

const asked = z.object({
  /** A kind of mesh data that goes along as vertex colours. */
  vertex: z.string().max(64).nullable(),
  as: z.enum(['glb', 'ply']),
})

/** The model as a file: the very triangles that are baked, with the layout that they are baked in. */
export const loader = ({ request, params }: Route.LoaderArgs) =>
  answeringJson(async () => {
    const id = idFrom(params.modelId)
    const { searchParams } = new URL(request.url)
    const { vertex, as } = checked(asked, { vertex: searchParams.get('vertex'), as: searchParams.get('as') ?? 'glb' })
    const model = await openModel(id)
    const mesh = vertex === null ? await keptMesh(model.mesh) : await modelWithVertexColours(id, vertex)
    const bytes = as === 'ply' ? writePly(mesh) : await writeGlb(mesh)
    const name = `${model.name}${vertex === null ? '' : ` ${vertex}`}.${as}`
    return new Response(new Uint8Array(bytes), {
      headers: {
        'Content-Type': as === 'glb' ? 'model/gltf-binary' : 'application/octet-stream',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
      },
    })
  })
