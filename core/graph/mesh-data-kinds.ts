/**
 * Kinds of mesh data that materials read, and what a texel of each is: the bakers of core/mesh make them, in their units (curvature 1/m,
 * position, height and thickness m).
 */
export const MESH_DATA_KINDS = {
  normal: 'normal',
  'object-normal': 'normal',
  occlusion: 'grey',
  'bent-normal': 'normal',
  curvature: 'grey',
  'rounded-edge': 'grey',
  position: 'vector',
  thickness: 'grey',
  height: 'grey',
  leaks: 'grey',
  light: 'grey',
  transfer: 'vector',
  'part-id': 'id',
  'material-id': 'id',
  'piece-id': 'id',
  'island-id': 'id',
  'colour-id': 'id',
  'vertex-colour': 'vector',
  tangent: 'vector',
  bitangent: 'vector',
  'low-normal': 'vector',
} as const satisfies Record<string, 'grey' | 'normal' | 'vector' | 'id'>

export type MeshDataKind = keyof typeof MESH_DATA_KINDS

export const meshDataKinds = Object.keys(MESH_DATA_KINDS) as MeshDataKind[]

/** The output of the node for mesh data that carries a kind as it is. */
export const meshDataPort = (kind: MeshDataKind): 'grey' | 'normal' | 'colour' | 'id' => {
  const type = MESH_DATA_KINDS[kind]
  return type === 'vector' ? 'colour' : type
}
