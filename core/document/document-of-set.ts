import type { MaterialDocument } from './document'
import { parseDocument } from './document'
import { DOCUMENT_VERSION } from './upgrade'

/** A file of an existing set of maps: the image by the name that the document gives it, and what its slots hold. */
export interface SetFile {
  readonly image: string
  /** What its node is called; as the image where none is told. */
  readonly title?: string
  readonly transfer: 'srgb' | 'raw'
  readonly slots: readonly SetSlot[]
  /** Of a height in metres from the surface: how far it goes from it at most. Others are from 0 to 1. */
  readonly reachMetres?: number | undefined
}

export interface SetSlot {
  readonly channel: string | null
  readonly component: number
  readonly inverted: boolean
}

/** How the surface of a set is told: by base colour and metallic, or by diffuse and specular colours. */
export const WORKFLOWS = ['metal-rough', 'spec-gloss'] as const
export type Workflow = (typeof WORKFLOWS)[number]

export interface SetOptions {
  readonly name: string
  readonly metres: readonly [number, number]
  readonly workflow: Workflow
  /** Metres that heights from 0 to 1 span. */
  readonly heightMetres?: number
  /**
   * Whose maps they are: of a tile unless told. Of a part alone, where nothing of its form is baked; or of one as it lies among baked data,
   * which channels of materials lie on.
   */
  readonly of?: 'tile' | 'part-alone' | 'part'
}

type Nodes = Record<string, { type: string; name?: string; params?: object; inputs?: object }>

const PORTS = ['first', 'second', 'third'] as const
const OBJECT_NORMAL = 'object-normal'
const HEIGHT = 'height'
/** Metres that heights span where nothing tells. */
const USUAL_DEPTH = 0.02
/** Channels that a set of diffuse and specular colours tells the surface by, and what they become. */
const SPECULAR = { colour: 'diffuse', specular: 'specular' } as const

/**
 * A set of maps as a material: one layer whose cells read the files, each channel from its slots; normals with green inverted are turned to
 * Y up, those of a model’s space to tangent ones where a part is there, gloss to roughness, diffuse and specular colours to base colour and metallic. Packed or delivered at the size of the files it holds
 * their very texels. Throws document-invalid.
 */
export function documentOfSet(
  files: readonly SetFile[],
  { name, metres, workflow, heightMetres = USUAL_DEPTH, of = 'tile' }: SetOptions,
): MaterialDocument {
  const nodes: Nodes = {}
  const cells: Record<string, { source: { node: string } }> = {}
  const surface: Record<string, string> = {}
  let objectNormal: string | null = null
  let depth = heightMetres
  files.forEach((file, f) => {
    for (const [channel, port] of channelsOf(file, `file${f + 1}`, nodes)) {
      const isSurface = workflow === 'spec-gloss' && Object.hasOwn(SPECULAR, channel)
      if (isSurface) surface[SPECULAR[channel as keyof typeof SPECULAR]] = port
      else if (channel === OBJECT_NORMAL) objectNormal = port
      else if (channel === HEIGHT && file.reachMetres) {
        depth = 2 * file.reachMetres
        const range = { fromLow: -file.reachMetres, fromHigh: file.reachMetres }
        nodes.metres = { type: 'remap', name: 'From metres', params: range, inputs: { source: port } }
        cells[channel] = { source: { node: 'metres.result' } }
      } else if (channel !== 'specular') cells[channel] = { source: { node: port } }
    }
  })
  if (objectNormal !== null && !cells.normal && of !== 'tile') {
    if (of === 'part') nodes.baked = { type: 'mesh-data', name: 'Baked normal', params: { kind: 'normal' } }
    const inputs = { normal: objectNormal, ...(of === 'part' ? { base: 'baked.normal' } : {}) }
    nodes.tangent = { type: 'object-to-tangent', name: 'Object to tangent', inputs }
    cells.normal = { source: { node: 'tangent.result' } }
  }
  if (surface.diffuse) {
    nodes.surface = { type: 'specular-to-metal', name: 'Specular to metal', inputs: surface }
    cells.colour = { source: { node: 'surface.colour' } }
    cells.metallic = { source: { node: 'surface.metallic' } }
  }
  return parseDocument({
    format: 'amber-grist/material',
    version: DOCUMENT_VERSION,
    name,
    domain: of === 'tile' ? { kind: 'tile', metres } : { kind: 'part' },
    heightMetres: depth,
    // Where there are no normals they come of its height.
    ...(cells.normal ? { normalsHoldHeight: true } : {}),
    // What was occlusion of the set stays it: nothing is added from its height.
    occlusion: { radiusMetres: 0.05, strength: 0 },
    nodes,
    layers: [{ kind: 'layer', id: 'set', name, cells }],
  })
}

/** Channels that a set of diffuse and specular colours leads to by one of them. */
const OF_SPECULAR = ['colour', 'metallic', 'diffuse', 'specular', 'specular-tint']
/** The same of base colour, and of metallic. */
const OF_METAL = {
  colour: ['colour', 'diffuse', 'specular', 'specular-tint'],
  metallic: ['metallic', 'diffuse', 'specular', 'specular-tint'],
}

/** Whether one of these files holds a channel. */
export const setHolds = (files: readonly Pick<SetFile, 'slots'>[], channel: string): boolean =>
  files.some(({ slots }) => slots.some((slot) => slot.channel === channel))

/** Whether a set tells its normals in the space of a model only. */
export const needsModel = (files: readonly Pick<SetFile, 'slots'>[]): boolean =>
  setHolds(files, OBJECT_NORMAL) && !setHolds(files, 'normal')

/** How a set tells its surface, by what its files hold. */
export const workflowOf = (files: readonly Pick<SetFile, 'slots'>[]): Workflow =>
  setHolds(files, 'specular') ? 'spec-gloss' : 'metal-rough'

/** Channels of a delivery that come of what a file of a set holds: of normals both kinds, where a part is there. */
export function channelsMadeOf(
  { slots }: Pick<SetFile, 'slots'>,
  files: readonly Pick<SetFile, 'slots'>[],
  { isOnPart = false }: { isOnPart?: boolean } = {},
): Set<string> {
  const isSpecular = workflowOf(files) === 'spec-gloss'
  const normals = isOnPart ? ['normal', OBJECT_NORMAL] : ['normal']
  return new Set(
    slots.flatMap(({ channel }) => {
      if (channel === null) return []
      if (isSpecular && Object.hasOwn(SPECULAR, channel)) return OF_SPECULAR
      if (channel === HEIGHT && !setHolds(files, 'normal') && !(isOnPart && needsModel(files)))
        return ['height', ...normals]
      if (channel === 'normal') return normals
      if (channel === OBJECT_NORMAL) return isOnPart && needsModel(files) ? normals : []
      return OF_METAL[channel as keyof typeof OF_METAL] ?? [channel]
    }),
  )
}

/** Channels that a file holds, each with the port that gives it; nodes that take it apart are added. */
function channelsOf({ image, title, transfer, slots }: SetFile, id: string, nodes: Nodes): [string, string][] {
  // The colours as the file has them, whatever its alpha says.
  const params = { image, encoding: transfer, alpha: 'premultiplied', ground: '#000000' }
  nodes[id] = { type: 'image', name: (title ?? image).slice(0, 60), params }
  const found: [string, string][] = []
  const invert = (port: string, at: string): string => {
    nodes[at] = { type: 'invert', inputs: { source: port } }
    return `${at}.result`
  }
  for (const [s, { channel, component, inverted }] of slots.entries()) {
    if (channel === null || component > 0) continue
    const whole = slots.filter((one) => one.channel === channel)
    if (whole.length === 2) {
      // Two channels of a normal: a file of just two has the second as its alpha.
      const isPair = slots.length === 2
      if (!isPair) nodes[`${id}s`] ??= { type: 'split', inputs: { source: `${id}.colour` } }
      const [x, y] = isPair ? [`${id}.stored`, `${id}.alpha`] : [`${id}s.${PORTS[0]!}`, `${id}s.${PORTS[1]!}`]
      const second = whole[1]!.inverted ? invert(y, `${id}y`) : y
      nodes[`${id}n`] = { type: 'join', inputs: { first: x, second } }
      found.push([channel, `${id}n.normal`])
      continue
    }
    if (whole.length > 1) {
      const turned = whole[1]!.inverted
      if (turned)
        nodes[`${id}y`] = { type: 'adjust-normal', params: { flipGreen: true }, inputs: { source: `${id}.colour` } }
      found.push([channel, turned ? `${id}y.normal` : `${id}.colour`])
      continue
    }
    let port = slots.length === 1 ? `${id}.stored` : s === 3 ? `${id}.alpha` : `${id}s.${PORTS[s]!}`
    if (slots.length > 1 && s < 3) nodes[`${id}s`] ??= { type: 'split', inputs: { source: `${id}.colour` } }
    if (inverted) port = invert(port, `${id}i${s + 1}`)
    found.push([channel, port])
  }
  return found
}
