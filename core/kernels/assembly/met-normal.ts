import { faceMet, weightB, weightC } from './trace'

/** Triangles (three vertices each) and normals (three a vertex) of the mesh that is traced, for normals where rays meet it. */
let facesAt: usize = 0
let normalsAt: usize = 0
/** The normal at hand, of length 1. */
export let mx: f32 = 0
export let my: f32 = 0
export let mz: f32 = 0

/** Sets which mesh that is. */
export function setMesh(faces: usize, normals: usize): void {
  facesAt = faces
  normalsAt = normals
}

/** Sets the normal to that of the mesh where a ray has met it. */
export function normalThere(ray: usize): void {
  const face = facesAt + <usize>faceMet(ray) * 12
  const a = normalsAt + <usize>load<u32>(face) * 12
  const b = normalsAt + <usize>load<u32>(face + 4) * 12
  const c = normalsAt + <usize>load<u32>(face + 8) * 12
  const u = weightB(ray)
  const v = weightC(ray)
  const w = <f32>1 - u - v
  mx = load<f32>(a) * w + load<f32>(b) * u + load<f32>(c) * v
  my = load<f32>(a + 4) * w + load<f32>(b + 4) * u + load<f32>(c + 4) * v
  mz = load<f32>(a + 8) * w + load<f32>(b + 8) * u + load<f32>(c + 8) * v
  const length = Mathf.sqrt(mx * mx + my * my + mz * mz)
  mx = length > 0 ? mx / length : 0
  my = length > 0 ? my / length : 1
  mz = length > 0 ? mz / length : 0
}
