import { XMLBuilder, XMLParser, XMLValidator } from 'fast-xml-parser'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import type { BlendMode } from '../kernels/blend'
import { GristError, show } from '../errors'
import { LIMITS } from '../limits'

/*
 * OpenRaster, the layered pictures that image editors exchange: a ZIP of PNGs and an XML that stacks them.
 * Source: freedesktop.org, "OpenRaster specification" 0.0.5: file layout, and the attributes of stack and layer.
 */

export interface RasterLayer {
  readonly name: string
  readonly png: Uint8Array
  /** Where its upper left corner lies, in texels. */
  readonly x: number
  readonly y: number
  readonly opacity: number
  readonly visible: boolean
  readonly blend: BlendMode
}

export interface OpenRaster {
  readonly width: number
  readonly height: number
  /** The lowest first. */
  readonly layers: readonly RasterLayer[]
}

/** How our blends are called there; what has no name lies plainly over what is below. */
const OPERATORS: Partial<Record<BlendMode, string>> = {
  normal: 'svg:src-over',
  multiply: 'svg:multiply',
  screen: 'svg:screen',
  overlay: 'svg:overlay',
  darken: 'svg:darken',
  lighten: 'svg:lighten',
  'colour-dodge': 'svg:color-dodge',
  'colour-burn': 'svg:color-burn',
  'hard-light': 'svg:hard-light',
  'soft-light': 'svg:soft-light',
  difference: 'svg:difference',
  hue: 'svg:hue',
  saturation: 'svg:saturation',
  colour: 'svg:color',
  luminosity: 'svg:luminosity',
  add: 'svg:plus',
}

/** Whether image editors know a blend. */
export const isKnownBlend = (blend: BlendMode): boolean => blend in OPERATORS

const MIME = 'image/openraster'
const ATTRIBUTE = '@'
const XML = { ignoreAttributes: false, attributeNamePrefix: ATTRIBUTE, preserveOrder: true, format: true } as const

/**
 * Writes a file. `merged` is what the layers make together, `thumbnail` the same at 256 texels a side at most, both PNG. PNGs go in as they
 * are; the type comes first and unpacked, so that the file is known by its head.
 */
export function writeOpenRaster(
  { width, height, layers }: OpenRaster,
  { merged, thumbnail }: { readonly merged: Uint8Array; readonly thumbnail: Uint8Array },
): Uint8Array {
  const path = (i: number): string => `data/layer${i + 1}.png`
  const attributes = (values: Record<string, string | number>): Record<string, string> =>
    Object.fromEntries(Object.entries(values).map(([name, value]) => [`${ATTRIBUTE}${name}`, String(value)]))
  const stack = layers
    .map((layer, i) => ({
      layer: [],
      ':@': attributes({
        name: layer.name,
        src: path(i),
        x: layer.x,
        y: layer.y,
        opacity: layer.opacity,
        visibility: layer.visible ? 'visible' : 'hidden',
        'composite-op': OPERATORS[layer.blend] ?? 'svg:src-over',
      }),
    }))
    // The uppermost comes first there.
    .reverse()
  const xml = new XMLBuilder({ ...XML, suppressEmptyNode: true }).build([
    { '?xml': [{ '#text': '' }], ':@': attributes({ version: '1.0', encoding: 'UTF-8' }) },
    { image: [{ stack }], ':@': attributes({ version: '0.0.5', w: width, h: height }) },
  ])
  return zipSync(
    {
      mimetype: strToU8(MIME),
      'stack.xml': [strToU8(xml), { level: 6 }],
      ...Object.fromEntries(layers.map(({ png }, i) => [path(i), png])),
      'Thumbnails/thumbnail.png': thumbnail,
      'mergedimage.png': merged,
    },
    { level: 0 },
  )
}

/** Bytes of a file that are unpacked at most, and layers that are looked at. */
const MAX_BYTES = 2 * LIMITS.image.bytes
const MAX_LAYERS = 4 * LIMITS.document.layers

/** Reads a file, layers in groups one after the other. Throws file-unsupported, file-invalid. */
export function readOpenRaster(bytes: Uint8Array): OpenRaster {
  const files = unpacked(bytes)
  const type = files.get('mimetype')
  if (!type || strFromU8(type).trim() !== MIME)
    throw new GristError('file-unsupported', 'Expected an OpenRaster file; this one does not say that it is one.')
  const xml = files.get('stack.xml')
  if (!xml) throw new GristError('file-invalid', 'The file has no stack.xml, which says how its layers lie.')
  const root = parsed(strFromU8(xml)).find((one) => 'image' in one)
  if (!root) throw new GristError('file-invalid', 'stack.xml has no image.')
  const [width, height] = ['w', 'h'].map((name) => wholeNumber(root, name, 1, LIMITS.side)) as [number, number]
  const layers: RasterLayer[] = []
  const collect = (nodes: readonly XmlNode[], visible: boolean, left: number, top: number): void => {
    for (const node of nodes) {
      const own = visible && attribute(node, 'visibility') !== 'hidden'
      const [x, y] = [left + offset(node, 'x'), top + offset(node, 'y')]
      if (Array.isArray(node.stack)) collect(node.stack as XmlNode[], own, x, y)
      if (!('layer' in node)) continue
      const src = attribute(node, 'src') ?? ''
      const png = files.get(src)
      if (!png) throw new GristError('file-invalid', `A layer names ${show(src)}, which the file does not hold.`)
      if (layers.length >= MAX_LAYERS)
        throw new GristError('file-unsupported', `Expected at most ${MAX_LAYERS} layers.`)
      layers.push({
        ...{ name: attribute(node, 'name') ?? '', png, x, y, visible: own },
        opacity: share(attribute(node, 'opacity')),
        blend: blendOf(attribute(node, 'composite-op')),
      })
    }
  }
  collect((root.image as XmlNode[] | undefined) ?? [], true, 0, 0)
  return { width, height, layers: layers.reverse() }
}

function unpacked(bytes: Uint8Array): Map<string, Uint8Array> {
  let size = 0
  try {
    const files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (!/^(mimetype|stack\.xml|.+\.png)$/i.test(name)) return false
        size += originalSize
        if (size > MAX_BYTES)
          throw new GristError('file-unsupported', `Expected at most ${MAX_BYTES / 2 ** 20} MB when unpacked.`)
        return true
      },
    })
    return new Map(Object.entries(files))
  } catch (error) {
    if (error instanceof GristError) throw error
    throw new GristError('file-invalid', `The file is no whole ZIP: ${(error as Error).message}.`)
  }
}

/** A node as the parser gives it: its name with what is in it, and its attributes under ':@'. */
type XmlNode = Readonly<Record<string, unknown>>

function parsed(xml: string): XmlNode[] {
  // Entities of one's own can grow without end, and no editor writes them.
  if (/<!DOCTYPE/i.test(xml)) throw new GristError('file-unsupported', 'stack.xml has a DOCTYPE, which is not read.')
  const fault = XMLValidator.validate(xml)
  if (fault !== true)
    throw new GristError('file-invalid', `stack.xml cannot be read: ${fault.err.msg}`, { line: fault.err.line })
  try {
    return new XMLParser({ ...XML, parseAttributeValue: false, processEntities: true }).parse(xml) as XmlNode[]
  } catch (error) {
    throw new GristError('file-invalid', `stack.xml cannot be read: ${(error as Error).message}`)
  }
}

const attribute = (node: XmlNode, name: string): string | undefined =>
  (node[':@'] as Record<string, string> | undefined)?.[`${ATTRIBUTE}${name}`]

function wholeNumber(node: XmlNode, name: string, min: number, max: number): number {
  const text = attribute(node, name)
  const value = Number(text)
  if (!Number.isInteger(value) || value < min || value > max)
    throw new GristError('file-invalid', `Expected ${name} of ${min} to ${max} but received ${show(text)}.`)
  return value
}

const offset = (node: XmlNode, name: string): number => {
  const value = Number(attribute(node, name) ?? 0)
  return Number.isFinite(value) && Math.abs(value) <= LIMITS.side ? Math.round(value) : 0
}

const share = (text: string | undefined): number => {
  const value = text === undefined ? 1 : Number(text)
  return Number.isFinite(value) ? Math.min(1, Math.max(0, value)) : 1
}

const blendOf = (operator: string | undefined): BlendMode =>
  (Object.entries(OPERATORS).find(([, name]) => name === operator)?.[0] as BlendMode | undefined) ?? 'normal'
