import type { MaterialDocument } from '../document/document'
import type { Surface } from '../document/surface'
import type { ChannelPlace, PlanePlace } from './channel-places'
import { channelPlaces } from './channel-places'
import { depthOf, writtenFormat } from './format-registry'
import { parsePacking } from './packing'
import type { DeliveryRecord, RecordFile } from './record'

/*
 * A delivery as a material of MaterialX 1.38: its files as images with their colour spaces, by paths relative to the folder, into the
 * inputs of gltf_pbr, and height into a displacement. Sources, by memory: MaterialX specification 1.38 (images, extract, combine3,
 * invert, normalmap, displacement), its "Physically based shading nodes", and glTF 2.0, 3.9, whose model gltf_pbr is.
 */

type Type = 'float' | 'color3' | 'color4' | 'vector3' | 'vector4'

/** Alpha modes of gltf_pbr: opaque, mask, blend. What is added has no mode of its own there. */
const ALPHA_MODES: Record<Surface['opacity'], number> = { opaque: 0, 'cut-out': 1, blended: 2, additive: 2 }

/** What a channel goes into. */
const INPUTS: Record<string, string> = {
  colour: 'base_color',
  metallic: 'metallic',
  roughness: 'roughness',
  normal: 'normal',
  occlusion: 'occlusion',
  emission: 'emissive',
  opacity: 'alpha',
}

/** The material as XML; null where it can't be told: sheets of frames, blocks, which few readers take, or no base colour. */
export function materialX(record: DeliveryRecord, document: MaterialDocument): string | null {
  const lines = materialLines({ record, document })
  return lines && fileOf(lines)
}

/** A part of a model with its material: a record of its maps, and what the paths to them are. */
export interface MaterialOfPart {
  readonly part: string
  readonly record: DeliveryRecord
  /** The material that the part has, of those that share its maps. */
  readonly document: MaterialDocument
  /** The path to a file of the record; where there is a file for each tile of UVs it holds <UDIM>. */
  path(file: string): string
}

/**
 * The materials of all parts of a model, with a look that tells which part has which, parts by the names of their nodes; null where none of
 * them can be told. Source, by memory: MaterialX specification 1.38, "Looks" and "Filename substitutions".
 */
export function modelMaterialX(parts: readonly MaterialOfPart[]): string | null {
  const told = parts.flatMap((one, i) => {
    const lines = materialLines({ ...one, suffix: `_${i + 1}` })
    return lines ? [{ lines, part: one.part, material: `${nameOf(one.document.name)}_${i + 1}`, at: i + 1 }] : []
  })
  if (told.length === 0) return null
  return fileOf([
    ...told.flatMap(({ lines }) => lines),
    '  <look name="model">',
    ...told.map(
      ({ part, material, at }) =>
        `    <materialassign name="on_${at}" geom="${escaped(`/${part}`)}" material="${material}"/>`,
    ),
    '  </look>',
  ])
}

const fileOf = (lines: readonly string[]): string =>
  ['<?xml version="1.0"?>', '<materialx version="1.38" colorspace="lin_rec709">', ...lines, '</materialx>', ''].join(
    '\n',
  )

interface Told extends Pick<MaterialOfPart, 'record' | 'document'>, Partial<Pick<MaterialOfPart, 'path'>> {
  /** What the names of its elements end in. */
  readonly suffix?: string
}

function materialLines({ record, document, path = (file) => file, suffix = '' }: Told): string[] | null {
  const places = channelPlaces(record, document)
  if (parsePacking(record.packing).frames || record.files.some(({ block }) => block)) return null
  if (!places.some(({ channel }) => channel.id === 'colour')) return null
  const graph = new Graph(path)
  const inputs = places.flatMap((place) => {
    const input = INPUTS[place.channel.id]
    // Without a base colour's alpha an opaque surface stays opaque.
    if (!input || (input === 'alpha' && document.surface.opacity === 'opaque')) return []
    graph.output(place.channel.id, typeOf(place), graph.channel(place))
    return [
      `    <input name="${input}" type="${typeOf(place)}" nodegraph="maps${suffix}" output="${place.channel.id}"/>`,
    ]
  })
  if (places.some(({ channel }) => channel.id === 'emission'))
    inputs.push(value('emissive_strength', 'float', document.emissionStrength, 4))
  inputs.push(value('alpha_mode', 'integer', ALPHA_MODES[document.surface.opacity], 4))
  if (document.surface.opacity === 'cut-out') inputs.push(value('alpha_cutoff', 'float', 0.5, 4))
  const height = places.find(({ channel }) => channel.isHeight)
  if (height) graph.output('height', 'float', heightOf(graph, height, record.heightMetres))
  const relief = [
    `  <displacement name="relief${suffix}" type="displacementshader">`,
    `    <input name="displacement" type="float" nodegraph="maps${suffix}" output="height"/>`,
    '  </displacement>',
  ]
  const displaced = `    <input name="displacementshader" type="displacementshader" nodename="relief${suffix}"/>`
  return [
    `  <nodegraph name="maps${suffix}">`,
    ...graph.lines,
    '  </nodegraph>',
    `  <gltf_pbr name="surface${suffix}" type="surfaceshader">`,
    ...inputs,
    '  </gltf_pbr>',
    ...(height ? relief : []),
    `  <surfacematerial name="${nameOf(document.name)}${suffix}" type="material">`,
    `    <input name="surfaceshader" type="surfaceshader" nodename="surface${suffix}"/>`,
    ...(height ? [displaced] : []),
    '  </surfacematerial>',
  ]
}

const typeOf = ({ channel }: ChannelPlace): Type =>
  channel.type === 'grey' ? 'float' : channel.type === 'normal' ? 'vector3' : 'color3'

/** A name as MaterialX takes it: letters, digits and _, no digit first. */
const nameOf = (name: string): string => `m_${name.normalize('NFKD').replace(/[^A-Za-z0-9]+/g, '_')}`

const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]!)

const value = (name: string, type: string, given: number | string, indent: number): string =>
  `${' '.repeat(indent)}<input name="${name}" type="${type}" value="${given}"/>`

const isFloat = ({ format, bits }: RecordFile): boolean => depthOf(writtenFormat(format), bits)?.float === true

/** Metres from the surface: float files hold them, others 0.5 at the surface. */
function heightOf(graph: Graph, place: ChannelPlace, metres: number): string {
  const plain = graph.channel(place)
  if (isFloat(place.planes[0]!.file)) return plain
  const about = graph.node('subtract', 'float', [`in1:${plain}`], { in2: 0.5 })
  return graph.node('multiply', 'float', [`in1:${about}`], { in2: metres })
}

/** Nodes that bring channels together from images. */
class Graph {
  readonly lines: string[] = []
  private readonly outputs: string[] = []
  private readonly types = new Map<string, Type>()
  private readonly images = new Map<string, string>()
  private count = 0

  constructor(private readonly path: (file: string) => string) {}

  /** A node of so many inputs, each `name:node`, and values; its name. */
  node(
    kind: string,
    type: Type,
    inputs: readonly string[],
    values: Readonly<Record<string, number | string>> = {},
    valueType = type as string,
  ): string {
    const name = `${kind}${++this.count}`
    this.types.set(name, type)
    this.add([
      `    <${kind} name="${name}" type="${type}">`,
      ...inputs.map((input) => {
        const [port, node] = input.split(':') as [string, string]
        return `      <input name="${port}" type="${this.types.get(node)}" nodename="${node}"/>`
      }),
      ...Object.entries(values).map(([port, given]) => value(port, valueType, given, 6)),
      `    </${kind}>`,
    ])
    return name
  }

  output(name: string, type: Type, node: string): void {
    this.outputs.push(name)
    this.lines.push(`    <output name="${name}" type="${type}" nodename="${node}"/>`)
  }

  /** Nodes stand before the outputs. */
  private add(lines: readonly string[]): void {
    this.lines.splice(this.lines.length - this.outputs.length, 0, ...lines)
  }

  /** A channel from its files, as it is meant: encodings are the images', what is inverted is turned back. */
  channel(place: ChannelPlace): string {
    const { channel, planes } = place
    if (channel.type === 'grey') return this.plane(planes[0]!)
    const type = typeOf(place)
    const whole = planes.every(({ file, slot }, i) => file === planes[0]!.file && slot === i)
    const image = this.image(planes[0]!.file)
    const held = this.types.get(image)!
    const colour = whole && !planes.some(({ inverted }) => inverted) && channel.type === 'colour'
    if (colour) return held === type ? image : this.node('convert', type, [`in:${image}`])
    const made = this.node(
      'combine3',
      type,
      planes.map((plane, i) => `in${i + 1}:${this.plane(plane)}`),
    )
    // Files of whole steps hold n·0.5 + 0.5, as normalmap takes it; what is turned down was turned up again.
    if (channel.type !== 'normal') return made
    return this.node('normalmap', 'vector3', [`in:${isFloat(planes[0]!.file) ? this.inSteps(made) : made}`])
  }

  private inSteps(node: string): string {
    const half = this.node('multiply', 'vector3', [`in1:${node}`], { in2: 0.5 }, 'float')
    return this.node('add', 'vector3', [`in1:${half}`], { in2: 0.5 }, 'float')
  }

  private plane({ file, slot, inverted }: PlanePlace): string {
    const image = this.image(file)
    const own =
      file.slots.length === 1 ? image : this.node('extract', 'float', [`in:${image}`], { index: slot }, 'integer')
    if (!inverted) return own
    // 1 − v; of a float normal −v.
    const signed = isFloat(file) && file.slots[slot]!.channel === 'normal'
    return this.node('subtract', 'float', [`in2:${own}`], { in1: signed ? 0 : 1 })
  }

  private image(file: RecordFile): string {
    const known = this.images.get(file.name)
    if (known) return known
    const { length } = file.slots
    const encoded = file.transfer === 'srgb' && !isFloat(file)
    const type: Type = length === 1 ? 'float' : `${file.transfer === 'srgb' ? 'color' : 'vector'}${length as 3 | 4}`
    const name = `image${++this.count}`
    this.types.set(name, type)
    this.images.set(file.name, name)
    const space = file.transfer === 'srgb' ? ` colorspace="${encoded ? 'srgb_texture' : 'lin_rec709'}"` : ''
    this.add([
      `    <image name="${name}" type="${type}">`,
      `      <input name="file" type="filename" value="${escaped(this.path(file.name))}"${space}/>`,
      '    </image>',
    ])
    return name
  }
}
