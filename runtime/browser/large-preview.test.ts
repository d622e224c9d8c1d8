import { FieldCache } from '#core/engine/field-cache'
import { localExecutor } from '#core/engine/local-executor'
import { Pyramids } from '#core/engine/pyramids'
import { GristError } from '#core/errors'
import type { MaterialSession } from '#core/material/session'
import { openMaterial } from '#core/material/session'
import { registry } from '#core/nodes/registry.generated'
import { documentOf } from '#core/testing/examples'
import { channelOutput } from '#core/document/address'
import { channelsOf } from '#core/document/channels'
import { Coordinator } from './coordinator'
import { evaluateLarge, forecastLarge } from './large-preview'
import { Packer } from './packer'
import type { Preview, PreviewRequest } from './protocol'
import { makeTexture, texturesOf } from './textures'

const executor = localExecutor(registry)
const images = {
  load: async (image: string) => {
    throw new GristError('asset-missing', `The image ${image} is not in the library.`)
  },
}
/** 4096 × 64 texels at the width of large previews. */
const sheet = (roughness: number, colour: object = { node: 'hills.grey' }) =>
  documentOf({
    domain: { kind: 'tile', metres: [8, 0.125] },
    nodes: {
      hills: { type: 'noise', params: { cells: [64, 1] } },
      soft: { type: 'blur', inputs: { source: 'hills.grey' }, params: { radius: 0.002 } },
      lost: { type: 'image', params: { image: 'f'.repeat(64) } },
    },
    layers: [
      {
        kind: 'layer',
        id: 'base',
        name: 'Base',
        cells: {
          colour: { source: colour },
          roughness: { source: { value: roughness } },
          height: { source: { node: 'soft.result' } },
        },
      },
    ],
  })
const WIDTH = 4096
const noSignals = { isCancelled: () => false, onProgress: () => {} }
const requestFor = (document: ReturnType<typeof sheet>, cacheBytes: number) => {
  const names = channelsOf(document).map(({ id }) => id)
  const makers = texturesOf(names, { lit: true, shown: null })
  return { width: WIDTH, makers, lacking: makers, cacheBytes }
}
const sessionOf = (document: ReturnType<typeof sheet>) =>
  openMaterial(document, registry, { executor, pyramids: new Pyramids(images) })
const bytesOf = ({ buffer }: ArrayBufferView): Uint8Array => new Uint8Array(buffer)
const TOTAL = 2 * 2 ** 30
/** What the cache has to take for so many bytes to be left for fields. */
function cacheLeaving(session: MaterialSession, document: ReturnType<typeof sheet>, bytes: number): number {
  const outputs = channelsOf(document).map(({ id }) => channelOutput(id))
  const fields = session.forecast({ outputs, width: WIDTH }).bytes
  return TOTAL - bytes - (forecastLarge(session, requestFor(document, 0)) - fields)
}

describe('a large preview', () => {
  it('has band by band the bytes of whole fields, within what it was told to take', async () => {
    const document = sheet(0.4)
    const session = sessionOf(document)
    const outputs = channelsOf(document).map(({ id }) => channelOutput(id))
    const whole = session.forecast({ outputs, width: WIDTH }).bytes
    const tight = requestFor(document, cacheLeaving(session, document, whole - 1))
    const host = { executor, pyramids: new Pyramids(images), cache: new FieldCache(64 << 20) }
    const { fields } = await openMaterial(document, registry, host).evaluatePartial({ outputs, width: WIDTH })
    const made = await evaluateLarge(session, tight, noSignals)
    expect(made.report.bands).toBeGreaterThan(1)
    expect(made.report.peakBytes).toBeLessThan(whole)
    for (const maker of tight.makers) {
      const [{ pixels, ...size }, expected] = [made.textures[maker.slot]!, makeTexture(maker, fields)]
      expect([maker.slot, size]).toMatchObject([maker.slot, { width: expected.width, height: expected.height }])
      expect([maker.slot, Buffer.compare(bytesOf(pixels), bytesOf(expected.pixels))]).toEqual([maker.slot, 0])
    }
  })

  it('that would take more is refused before it begins', () => {
    const document = sheet(0.4)
    const session = sessionOf(document)
    const little = requestFor(document, cacheLeaving(session, document, 1 << 20))
    expect(() => forecastLarge(session, little)).toThrow('1 MB are allowed')
    expect(() => forecastLarge(session, requestFor(document, TOTAL))).toThrow('leave no room')
  })

  it('does without a node that fails', async () => {
    const document = sheet(0.4, { node: 'lost.colour' })
    const made = await evaluateLarge(sessionOf(document), requestFor(document, 0), noSignals)
    expect([...made.faults.keys()]).toEqual(['colour'])
    expect(Object.keys(made.textures)).toEqual(['colour', 'normal', 'surface', 'occlusion', 'height', 'emission'])
  })

  it('is made of what changed, and sent once', async () => {
    const noFiles = {
      fetchFile: images.load,
      fetchMesh: () => Promise.reject(new Error('no mesh here')),
      throughJpeg: async (pixels: Uint8Array) => pixels,
      pause: async () => {},
    }
    const one = new Coordinator({
      executor,
      largeExecutor: () => localExecutor(registry),
      cacheBytes: 1 << 20,
      images,
      meshes: { load: () => Promise.reject(new Error('none')) },
      decodePng: () => Promise.reject(new Error('none')),
      packer: new Packer(noFiles),
    })
    let version = 0
    const preview = async (document: ReturnType<typeof sheet>): Promise<Preview> => {
      const request: PreviewRequest = {
        update: { version: ++version, document },
        width: WIDTH,
        shown: null,
        lit: true,
        swatches: [],
        layerColours: [],
        histograms: [],
      }
      const outcome = await one.evaluatePreview('shown', request)
      if ('error' in outcome) throw new Error(outcome.error)
      return outcome.preview
    }
    expect(one.forecastLarge({ width: WIDTH, shown: null })).toBeNull()
    const first = await preview(sheet(0.4))
    expect([first.height, Object.keys(first.textures)]).toEqual([
      64,
      ['colour', 'normal', 'surface', 'occlusion', 'height', 'emission'],
    ])
    expect(Object.keys((await preview(sheet(0.4))).textures)).toEqual([])
    expect(Object.keys((await preview(sheet(0.7))).textures)).toEqual(['surface'])
    expect(one.forecastLarge({ width: WIDTH, shown: null })).toEqual({ bytes: expect.any(Number) as number })
  })
})
