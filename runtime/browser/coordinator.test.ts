import { decodeSrgb, hexToLinear } from '#core/colour/srgb'
import { localExecutor } from '#core/engine/local-executor'
import { readObj } from '#core/mesh/formats/obj'
import { finishMesh } from '#core/mesh/mesh'
import { meshSummary } from '#core/mesh/mesh-summary'
import { partFactsOf } from '#core/mesh/part-facts'
import { GristError } from '#core/errors'
import { registry } from '#core/nodes/registry.generated'
import { packings } from '#core/texture/packings/packings.generated'
import type { Look } from '#core/preview/looks'
import { documentOf, evaluateOutputs } from '#core/testing/examples'
import { parseOutput } from '#core/document/address'
import type { MaterialDocument } from '#core/document/document'
import type { Patch } from '#core/document/patches'
import type { StageOutput } from '#core/texture/stage-output'
import { parseStageOutput } from '#core/texture/stage-output'
import type { CoordinatorHost } from './coordinator'
import { Coordinator } from './coordinator'
import { Packer } from './packer'
import type { DeliveredPreview, PackRequest, PackingPreview, Preview, PreviewRequest, View } from './protocol'

const cell = (source: object, more: object = {}) => ({ source, ...more })
const sheet = (roughness = 0.4, parts: Record<string, unknown> = {}) =>
  documentOf({
    nodes: {
      hills: { type: 'noise', params: { cells: [3, 3] } },
      soft: { type: 'blur', inputs: { source: 'hills.grey' } },
    },
    layers: [
      {
        kind: 'layer',
        id: 'base',
        name: 'Base',
        cells: {
          colour: cell({ value: '#3c78b4' }),
          roughness: cell({ value: roughness }),
          height: cell({ node: 'soft.result' }),
        },
      },
      {
        kind: 'layer',
        id: 'dust',
        name: 'Dust',
        mask: [{ source: { node: 'hills.grey' } }],
        cells: { colour: cell({ node: 'hills.grey' }) },
      },
    ],
    ...parts,
  })
let versions = 0
const whole = (document: MaterialDocument) => ({ version: ++versions, document })
const outputs = (...texts: string[]) => texts.map(parseOutput)
const wanted = (document: MaterialDocument, more: Partial<PreviewRequest> = {}): PreviewRequest => ({
  update: whole(document),
  width: 32,
  lit: true,
  shown: null,
  swatches: outputs(
    'colour',
    'roughness',
    'cell:base:colour',
    'cell:base:roughness',
    'cell:dust:colour',
    'layer:dust:mask',
  ),
  layerColours: ['base', 'dust'],
  histograms: [],
  ...more,
})
const noFiles = {
  fetchFile: async () => {
    throw new GristError('file-invalid', 'There is no delivery here.')
  },
  fetchMesh: async () => {
    throw new GristError('mesh-data-missing', 'There is no mesh here.')
  },
  /** A JPEG that loses the lowest bit. */
  throughJpeg: async (pixels: Uint8Array) => pixels.map((v) => v & 254),
  pause: () => new Promise<void>((resolve) => setImmediate(resolve)),
}
const plainHost: CoordinatorHost = {
  executor: localExecutor(registry),
  cacheBytes: 64 << 20,
  largeExecutor: () => localExecutor(registry),
  meshes: { load: () => Promise.reject(new Error('none')) },
  decodePng: () => Promise.reject(new Error('none')),
  images: {
    load: async (image) => {
      throw new GristError('asset-missing', `The image ${image} is not in the library.`)
    },
  },
  packer: new Packer(noFiles),
}
const coordinator = () => new Coordinator(plainHost)
async function previewed(one: Coordinator, request: PreviewRequest, view: View = 'shown'): Promise<Preview> {
  const outcome = await one.evaluatePreview(view, request)
  if ('error' in outcome) throw new Error(outcome.error)
  return outcome.preview
}

test('what a layer covers, its colour and values are of the part’s own texels only', async () => {
  // A square in the left half of its tile, and a mask that grows from 0 at the left of the tile to 1 at its right.
  const obj = 'o plate\nv 0 0 0\nv 1 0 0\nv 1 2 0\nv 0 2 0\nvt 0 0\nvt 0.5 0\nvt 0.5 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n'
  const mesh = finishMesh(readObj(obj))
  const on = partFactsOf({ summary: meshSummary(mesh), name: 'plate', mesh: 'plate', part: 0, uvSet: 0, data: {} })
  const document = (cells: object) =>
    sheet(0.4, {
      domain: { kind: 'part', on },
      nodes: { hills: { type: 'ramp', params: { shape: 'linear' } } },
      layers: [{ kind: 'layer', id: 'dust', name: 'Dust', mask: [{ source: { node: 'hills.grey' } }], cells }],
    })
  const mask = 'layer:dust:mask'
  const asked = { swatches: outputs(mask, 'cell:dust:colour'), layerColours: ['dust'], histograms: outputs(mask) }
  const here = new Coordinator({ ...plainHost, meshes: { load: async () => mesh } })
  const made = await previewed(here, wanted(document({ colour: cell({ node: 'hills.grey' }) }), asked))
  expect(made.swatches[mask]!.mean).toBeCloseTo(0.25, 1)
  expect(made.histograms[mask]!.planes[0]!.mean).toBeCloseTo(0.25, 1)
  expect(made.histograms[mask]!.planes[0]!.max).toBeLessThan(0.55)
  expect(made.histograms[mask]!.covered).toBeGreaterThan(0.9)
  // What grows from 0 to a half, weighted by itself: a third, in linear light.
  const [red] = hexToLinear(made.layerColours.dust!)
  expect(red).toBeCloseTo(1 / 3, 1)
  // Without its mesh, where nothing else needs that, over all of the tile.
  const gone = { load: () => Promise.reject(new GristError('mesh-data-missing', 'There is no such mesh.')) }
  const lost = await previewed(new Coordinator({ ...plainHost, meshes: gone }), wanted(document({}), asked))
  expect(lost.swatches[mask]!.mean).toBeCloseTo(0.5, 1)
  expect(lost.histograms[mask]!.planes[0]!.mean).toBeCloseTo(0.5, 1)
})

describe('what is sent', () => {
  it('is everything at first, and nothing where nothing changed', async () => {
    const one = coordinator()
    const first = await previewed(one, wanted(sheet()))
    expect(Object.keys(first.textures).sort()).toEqual([
      'colour',
      'emission',
      'height',
      'normal',
      'occlusion',
      'surface',
    ])
    expect(Object.keys(first.swatches)).toHaveLength(6)
    const again = await previewed(one, wanted(sheet()))
    expect([again.textures, again.swatches, again.evaluated]).toEqual([{}, {}, 0])
  })

  it('after an edit is what depends on it', async () => {
    const one = coordinator()
    await previewed(one, wanted(sheet()))
    const { textures, swatches, evaluated } = await previewed(one, wanted(sheet(0.7)))
    expect(Object.keys(textures)).toEqual(['surface'])
    expect(Object.keys(swatches)).toEqual(['roughness', 'cell:base:roughness'])
    expect(evaluated).toBeLessThan(3)
  })

  it('is sent again at a higher width, not at a lower one, and not for a swatch that was away', async () => {
    const one = coordinator()
    await previewed(one, wanted(sheet()))
    const sharp = await previewed(one, wanted(sheet(), { width: 64, swatches: [], layerColours: [] }))
    expect(Object.keys(sharp.textures)).toContain('normal')
    expect((await previewed(one, wanted(sheet()))).textures).toEqual({})
    await previewed(one, wanted(sheet(), { swatches: outputs('colour') }))
    expect(Object.keys((await previewed(one, wanted(sheet(), { swatches: outputs('roughness') }))).swatches)).toEqual([
      'roughness',
    ])
  })

  it('is told apart by view', async () => {
    const one = coordinator()
    await previewed(one, wanted(sheet()))
    expect(Object.keys((await previewed(one, wanted(sheet()), 'comparison')).textures)).toHaveLength(6)
  })
})

describe('pictures', () => {
  it('of plain values are one texel of the very byte', async () => {
    const { swatches, textures } = await previewed(coordinator(), wanted(sheet(119 / 255)))
    expect([...swatches['cell:base:colour']!.pixels]).toEqual([0x3c, 0x78, 0xb4, 255])
    expect([...swatches['cell:base:roughness']!.pixels]).toEqual([119, 119, 119, 255])
    expect([textures.surface!.width, [...textures.surface!.pixels]]).toEqual([1, [255, 119, 0, 255]])
  })

  it('of another look are made of what it is lit by: its strength lies in alpha, 15 of 255 where there is none', async () => {
    const own = (channels: object) =>
      documentOf({
        channels,
        layers: [
          {
            kind: 'layer',
            id: 'base',
            name: 'Base',
            cells: { colour: { source: { value: '#c86432' } }, metallic: { source: { value: 0 } } },
          },
        ],
      })
    const one = coordinator()
    const bytes = async (look: Look, channels: object = {}) => {
      const { textures } = await previewed(one, wanted(own(channels), { look, swatches: [], layerColours: [] }))
      return Object.fromEntries(Object.entries(textures).map(([slot, { pixels }]) => [slot, [...pixels.slice(0, 4)]]))
    }
    // Complement of (200, 100, 50) times 0.35; see core/kernels/specular.test.ts.
    const older = await bytes('older')
    expect([older.diffuse, older.specular]).toEqual([
      [200, 100, 50, 255],
      [18, 53, 70, 15],
    ])
    expect((await bytes('older', { strength: { type: 'grey', backdrop: 20 / 255 } })).specular).toEqual([
      18, 53, 70, 20,
    ])
    // 0.04 in linear light is 56 of 255.
    expect((await bytes('specular-gloss')).specular).toEqual([56, 56, 56, 255])
    expect(await bytes('strands')).not.toHaveProperty('strands')
    expect((await bytes('strands', { tip: { type: 'grey', backdrop: 1 } })).strands).toEqual([0, 255, 128, 128])
  })

  it('carry opacity in the colour’s alpha, and lie bottom row first', async () => {
    const one = coordinator()
    const ramp = { nodes: { run: { type: 'ramp', params: { angle: 0.25 } } } }
    const layers = [{ kind: 'layer', id: 'a', name: 'A', cells: { opacity: cell({ node: 'run.grey' }) } }]
    const request = wanted(sheet(0.4, { ...ramp, layers }), {
      layerColours: [],
      swatches: [],
      shown: parseOutput('opacity'),
    })
    const { textures } = await previewed(one, request)
    const { fields } = await evaluateOutputs(sheet(0.4, { ...ramp, layers }), ['opacity'], 32)
    const plane = fields.get('opacity')!.planes[0]!
    for (const y of [0, 7, 31]) {
      const byte = Math.round(255 * Math.min(1, Math.max(0, plane[y * 32]!)))
      const at = (31 - y) * 32 * 4
      expect(Math.abs(textures.colour!.pixels[at + 3]! - byte)).toBeLessThanOrEqual(1)
      expect(Math.abs(textures.shown!.pixels[at]! - byte)).toBeLessThanOrEqual(1)
    }
  })

  it('for the help of every node can be made', async () => {
    const one = coordinator()
    for (const type of registry.keys()) expect(await one.example(type)).not.toBeNull()
    expect(await one.example('nothing')).toBeNull()
  })
})

describe('what takes long', () => {
  it('is left for a later pass, and what there is of it stays', async () => {
    const one = coordinator()
    await previewed(one, wanted(sheet()))
    const rough = await previewed(one, wanted(sheet(0.7), { later: ['occlusion'] }))
    expect(rough.textures.occlusion).toBeUndefined()
    expect(one.probe('shown', 0.5, 0.5).map(({ channel }) => channel)).toContain('occlusion')
    const fresh = coordinator()
    await previewed(fresh, wanted(sheet(), { later: ['occlusion'] }))
    expect(fresh.probe('shown', 0.5, 0.5).map(({ channel }) => channel)).not.toContain('occlusion')
  })

  it('is cancelled by a newer call for the same view, not of the other', async () => {
    const one = coordinator()
    const [first, second, other] = await Promise.all([
      one.evaluatePreview('shown', wanted(sheet())),
      one.evaluatePreview('shown', wanted(sheet(0.6))),
      one.evaluatePreview('comparison', wanted(sheet(0.5))),
    ])
    expect(first).toMatchObject({ cancelled: true })
    expect('preview' in second && 'preview' in other).toBe(true)
  })
})

it('the probe reads every channel as the engine has it', async () => {
  const one = coordinator()
  await previewed(one, wanted(sheet()))
  const { fields } = await evaluateOutputs(sheet(), ['height', 'colour'], 32)
  const read = new Map(one.probe('shown', 0.3, 0.7).map(({ channel, values }) => [channel, values]))
  const at = Math.floor(0.7 * 32) * 32 + Math.floor(0.3 * 32)
  expect(read.get('height')).toEqual([fields.get('height')!.planes[0]![at]])
  expect(read.get('colour')).toEqual(fields.get('colour')!.planes.map((plane) => plane[at]))
  expect(read.get('roughness')![0]).toBeCloseTo(0.4, 6)
})

it('a place tells its layers, and the value of what is shown there', async () => {
  const one = coordinator()
  const place = { u: 0.3, v: 0.7, width: 32, channel: 'colour', shown: parseOutput('layer:dust:mask') }
  expect(await one.placeAt('shown', place)).toMatchObject({ stale: true })
  await previewed(one, wanted(sheet()))
  const { fields } = await evaluateOutputs(sheet(), ['hills.grey'], 32)
  const mask = fields.get('hills.grey')!.planes[0]![Math.floor(0.7 * 32) * 32 + Math.floor(0.3 * 32)]!
  const found = await one.placeAt('shown', place)
  expect(found).toEqual({
    layers: [
      { layer: 'dust', covers: mask, shows: mask, corrects: false },
      { layer: 'base', covers: 1, shows: 1 - mask, corrects: false },
    ],
    shown: { type: 'grey', values: [mask] },
  })
})

it('weighs nodes of a document on its own, and keeps nothing of it', async () => {
  const freed: ArrayBufferView[] = []
  const { executor } = plainHost
  const one = new Coordinator({ ...plainHost, executor: { ...executor, free: (region) => void freed.push(region) } })
  expect(await one.weigh('soft')).toMatchObject({ cancelled: true })
  one.beginWeighing(sheet(), 32)
  const found = await one.weigh('soft')
  expect(found).toMatchObject({ change: { colour: 0 } })
  expect('change' in found && found.change.height).toBeGreaterThan(0)
  one.endWeighing()
  expect(freed.length).toBeGreaterThan(4)
})

it('each layer has its mean colour where its mask lets it show', async () => {
  const { layerColours } = await previewed(coordinator(), wanted(sheet()))
  expect(layerColours.base).toBe('#3c78b4')
  // Dust is a grey noise seen through itself: its bright parts weigh more, so it is lighter than the plain mean.
  const { fields } = await evaluateOutputs(sheet(), ['hills.grey'], 32)
  const plane = fields.get('hills.grey')!.planes[0]!
  const mean = plane.reduce((sum, v) => sum + v, 0) / plane.length
  expect(decodeSrgb(parseInt(layerColours.dust!.slice(1, 3), 16) / 255)).toBeGreaterThan(mean)
})

it('makes a small picture of a document without disturbing what is shown', async () => {
  const one = coordinator()
  const before = await previewed(one, wanted(sheet()))
  const picture = await one.picture(sheet())
  expect([picture!.width, picture!.height, picture!.pixels.length]).toEqual([64, 64, 64 * 64 * 4])
  expect(new Set(picture!.pixels).size).toBeGreaterThan(8)
  // What stands is still there: nothing of it is evaluated again.
  const after = await previewed(one, wanted(sheet()))
  expect([before.evaluated > 0, after.evaluated]).toEqual([true, 0])
})

it('the histograms are those of the outputs asked for', async () => {
  const { histograms } = await previewed(coordinator(), wanted(sheet(), { histograms: [parseOutput('hills.grey')] }))
  expect(Object.keys(histograms)).toEqual(['hills.grey'])
  expect(histograms['hills.grey']!.planes[0]!.bins.reduce((sum, ratio) => sum + ratio, 0)).toBeCloseTo(1, 9)
})

describe('what fails', () => {
  it('in building takes only its own outputs with it', async () => {
    const broken = sheet(0.4, {
      nodes: { hills: { type: 'noise' }, soft: { type: 'blur' } },
    })
    const { faults, swatches } = await previewed(coordinator(), wanted(broken))
    expect(faults.height).toMatchObject({ node: 'soft' })
    expect(faults.colour).toBeUndefined()
    expect(Object.keys(swatches)).toContain('colour')
  })

  it('in evaluating too, as where an image is missing', async () => {
    const missing = sheet(0.4, {
      nodes: {
        hills: { type: 'noise' },
        soft: { type: 'image', params: { image: `sha256:${'0'.repeat(64)}` } },
      },
    })
    const layers = (missing.layers[0] as { cells: Record<string, unknown> }).cells
    layers.height = cell({ node: 'soft.grey' }, { blend: 'normal', amount: 1, encoding: 'srgb' })
    const { faults, textures } = await previewed(coordinator(), wanted(missing))
    expect(faults.height).toMatchObject({ node: 'soft', message: expect.stringContaining('not in the library') })
    expect(Object.keys(textures)).toEqual(expect.arrayContaining(['colour', 'height']))
  })

  it('as patches to a version that is not here asks for the whole', async () => {
    const one = coordinator()
    const lost = await one.evaluatePreview('shown', wanted(sheet(), { update: { version: 9, since: 8, patches: [] } }))
    expect(lost).toMatchObject({ stale: true })
    const first = wanted(sheet())
    await previewed(one, first)
    const { version } = first.update
    const patch: Patch = { op: 'replace', path: ['layers', 0, 'cells', 'roughness', 'source', 'value'], value: 0.7 }
    const after = await previewed(one, {
      ...first,
      update: { version: version + 1, since: version, patches: [patch] },
    })
    expect(Object.keys(after.textures)).toEqual(['surface'])
  })
})

it('a long run of edits holds no more memory than its cache and what pages read', async () => {
  let held = 0
  const local = localExecutor(registry)
  const one = new Coordinator({
    executor: {
      ...local,
      allocate: (bytes) => ((held += bytes), new Uint8Array(bytes)),
      free: ({ byteLength }) => (held -= byteLength),
    },
    cacheBytes: 1 << 20,
    largeExecutor: () => local,
    images: { load: () => Promise.reject(new Error('none')) },
    meshes: { load: () => Promise.reject(new Error('none')) },
    decodePng: () => Promise.reject(new Error('none')),
    packer: new Packer(noFiles),
  })
  const run = async (from: number, to: number): Promise<number> => {
    let most = 0
    for (let i = from; i < to; i++) {
      const nodes = {
        hills: { type: 'noise', params: { seed: i } },
        soft: { type: 'blur', inputs: { source: 'hills.grey' } },
      }
      await previewed(one, wanted(sheet(0.4, { nodes }), { width: 64 }))
      most = Math.max(most, held)
    }
    return most
  }
  const warm = await run(0, 12)
  expect(warm).toBeGreaterThan(1 << 19)
  expect(await run(12, 40)).toBeLessThan(warm + 64 * 64 * 4 * 8)
})

describe('packing', () => {
  const packing = {
    format: 'amber-grist/packing',
    version: 1,
    name: 'own',
    title: 'Own',
    summary: '',
    files: [
      {
        map: 'colour',
        format: 'png',
        bits: 8,
        transfer: 'srgb',
        slots: [0, 1, 2].map((component) => ({ channel: 'colour', component })),
      },
      { map: 'gloss', format: 'jpg', bits: 8, transfer: 'raw', slots: [{ channel: 'roughness', invert: true }] },
    ],
  }
  const asked = (more: Partial<PackRequest> = {}): PackRequest => ({
    update: whole(sheet(0.4)),
    width: 32,
    from: { packing, sharpen: 0, dither: false },
    want: { kind: 'packing', report: { width: 1024, height: 1024 } },
    ...more,
  })
  async function packed(one: Coordinator, request: PackRequest) {
    const outcome = await one.pack(request)
    if ('error' in outcome) throw new Error(outcome.error)
    return outcome.packed
  }
  const sheetOf = async (one: Coordinator, request = asked()) => (await packed(one, request)) as PackingPreview
  const lookAt = async (one: Coordinator, text: string | null, mip = 0, more: Partial<PackRequest> = {}) => {
    const shown: StageOutput | null = text === null ? null : parseStageOutput(text)
    return (await packed(one, asked({ want: { kind: 'delivered', mip, shown }, ...more }))) as DeliveredPreview
  }

  it('lights files by the workflow that they are for', async () => {
    const packed = (name: string) => ({
      from: { packing: packings.find((one) => one.name === name), sharpen: 0, dither: false },
    })
    const older = await lookAt(coordinator(), null, 0, packed('specular-strength-painted'))
    expect([older.look, ...Object.keys(older.textures).filter((slot) => /diffuse|specular/.test(slot))]).toEqual([
      'older',
      'diffuse',
      'specular',
    ])
    expect((await lookAt(coordinator(), null, 0, packed('specular-gloss'))).look).toBe('specular-gloss')
    const update = whole(sheet(0.4, { channels: { root: { type: 'grey', backdrop: 0 } } }))
    expect((await lookAt(coordinator(), null, 0, { update, ...packed('strands') })).look).toBe('strands')
    expect((await lookAt(coordinator(), null)).look).toBe('metal-rough')
  })

  it('shows files, their slots, and what an engine would see of them', async () => {
    const one = coordinator()
    const got = await sheetOf(one)
    // Roughness 0.4 inverted is 153 of 255; the JPEG of these tests loses the lowest bit.
    expect([...got.files.gloss!.slots[0]!.pixels.slice(0, 4)]).toEqual([152, 152, 152, 255])
    expect(got.files.colour!.slots).toHaveLength(3)
    const { surface, colour, occlusion } = (await lookAt(one, null)).textures
    // Green is roughness, read back: 1 − 152/255.
    expect(surface!.pixels[1]).toBe(103)
    expect(colour!.width).toBe(32)
    // What no file brings is what lies below: no shade.
    expect(occlusion!.pixels[0]).toBe(255)
    expect(got.report!.find(({ name }) => name === 'lossy-data')!.findings).toHaveLength(1)
    expect(got.report!.find(({ name }) => name === 'size')!.measured).toContain('1024 × 1024')
    expect(got.histograms!.map(({ channel }) => channel)).toEqual(['colour', 'roughness'])
  })

  it('shows a file, a slot and a mip of it', async () => {
    const one = coordinator()
    const file = await lookAt(one, 'file:gloss', 2)
    expect([file.width, file.height]).toEqual([8, 8])
    expect(file.textures.shown!.pixels.slice(0, 4)).toEqual(new Uint8ClampedArray([152, 152, 152, 255]))
    expect((await lookAt(one, 'slot:2:colour')).textures.shown).toMatchObject({ width: 32, height: 32 })
    expect((await lookAt(one, 'slot:3:colour')).textures).toEqual({})
    expect((await lookAt(one, 'file:gone')).textures).toEqual({})
    // A channel alone is read out of the file that holds it.
    const roughness = await lookAt(one, 'roughness')
    expect(roughness.textures.shown!.pixels[0]).toBe(103)
  })

  it('tells what is lost in a file, and shows it amplified: of a slot by itself, of a mip as an engine makes it', async () => {
    const update = whole(sheet(0.4003))
    const png = { ...packing, files: packing.files.map((file) => ({ ...file, format: 'png' })) }
    const from = { packing: png, sharpen: 0, dither: false } as const
    const want = (text: string, mip = 0) =>
      ({ kind: 'delivered', mip, shown: parseStageOutput(text), difference: true }) as const
    const got = await lookAt(coordinator(), null, 0, { update, from, want: want('file:gloss') })
    // 1 − 0.4003 is 152.92 of 255 steps, and becomes 153.
    expect(got.loss!.rms * 255).toBeCloseTo(0.0765, 2)
    expect(got.gain).toBe(256)
    // 127.5 + 127.5 · 256 · 0.0765 / 255.
    expect(got.textures.shown!.pixels[0]).toBe(137)
    const small = await lookAt(coordinator(), null, 0, { update, from, want: want('slot:0:gloss', 2) })
    expect([small.textures.shown!.width, small.textures.shown!.pixels[0]]).toEqual([got.width / 4, 137])
    const plain = await lookAt(coordinator(), 'file:gloss', 0, { update, from })
    expect([plain.gain, plain.loss]).toEqual([null, got.loss])
  })

  it('shows a delivery by the files that the server has of it', async () => {
    const fetched: unknown[] = []
    const one = new Coordinator({
      ...plainHost,
      packer: new Packer({
        ...noFiles,
        fetchFile: async (...words) => {
          fetched.push(words)
          return { width: 4, height: 4, channels: 1, bits: 8, float: false, values: new Float32Array(16).fill(0.2) }
        },
      }),
    })
    const slots = [{ channel: 'roughness', component: 0, inverted: true, constant: null, min: 0.2, max: 0.2 }]
    const file = {
      name: 'a.png',
      map: 'gloss',
      format: 'png',
      bits: 8,
      transfer: 'raw',
      slots,
      bytes: 1,
      sha256: '0'.repeat(64),
    }
    const document = sheet(0.4)
    const record = {
      format: 'amber-grist/record',
      version: 1,
      application: 'x',
      document,
      documentSha256: '0'.repeat(64),
      packing,
      width: 16,
      height: 16,
      dither: false,
      normalY: 'up',
      heightMetres: 0.05,
      keys: {},
      assets: {},
      files: [file],
    }
    const got = await lookAt(one, null, 2, { from: { delivery: 'id', record } })
    expect(fetched).toEqual([['id', 0, 2]])
    expect([got.width, got.height]).toEqual([4, 4])
    expect(got.textures.surface!.pixels[1]).toBe(204)
  })

  it('tells in words what cannot be packed; a newer request gives the older up', async () => {
    const one = coordinator()
    const lost = { ...packing, files: [{ ...packing.files[1]!, slots: [{ channel: 'wear' }] }] }
    expect(await one.pack(asked({ from: { packing: lost, sharpen: 0, dither: false } }))).toEqual({
      error: expect.stringContaining('no channel "wear"') as string,
      cancelled: false,
    })
    const [older, newer] = await Promise.all([one.pack(asked({ width: 64 })), one.pack(asked({ width: 48 }))])
    expect(older).toMatchObject({ cancelled: true })
    expect(newer).toHaveProperty('packed')
    // Looking at files does not give up the sheet.
    const both = await Promise.all([
      one.pack(asked()),
      one.pack(asked({ want: { kind: 'delivered', mip: 0, shown: null } })),
    ])
    expect(both.every((outcome) => 'packed' in outcome)).toBe(true)
  })

  it('is given up by an edit, wherever it is, and asked for again it comes', async () => {
    let turns = 0
    let edit: () => void = () => {}
    const one = new Coordinator({
      ...plainHost,
      packer: new Packer({
        ...noFiles,
        pause: async () => {
          if (++turns === 4) edit()
          await noFiles.pause()
        },
      }),
    })
    const first = wanted(sheet(0.4))
    await previewed(one, first)
    const again = { ...first, update: { version: first.update.version, since: first.update.version, patches: [] } }
    edit = () => void one.evaluatePreview('shown', again)
    // The same document once more, as a wider pass has it, is no edit.
    expect(await one.pack(asked())).toHaveProperty('packed')
    turns = 0
    edit = () => void one.evaluatePreview('shown', wanted(sheet(0.5)))
    expect(await one.pack(asked({ from: { packing, sharpen: 0, dither: true } }))).toMatchObject({ cancelled: true })
    expect(turns).toBe(4)
    expect(await one.pack(asked())).toHaveProperty('packed')
  })

  it('makes only those files again whose channels have changed', async () => {
    let damaged = 0
    const one = new Coordinator({
      ...plainHost,
      packer: new Packer({
        ...noFiles,
        throughJpeg: async (pixels) => {
          damaged++
          return pixels.map((v) => v & 254)
        },
      }),
    })
    const before = await sheetOf(one)
    expect(damaged).toBe(1)
    // Another colour: the file of roughness stays, and so does its picture.
    const recoloured = sheet(0.4)
    ;(recoloured.layers[0] as { cells: Record<string, unknown> }).cells.colour = cell(
      { value: '#804020' },
      { blend: 'normal', amount: 1, encoding: 'srgb' },
    )
    const after = await sheetOf(one, asked({ update: whole(recoloured) }))
    expect(damaged).toBe(1)
    expect(after.files.colour!.whole.pixels).not.toEqual(before.files.colour!.whole.pixels)
    expect(after.files.gloss!.slots[0]!.pixels).toEqual(before.files.gloss!.slots[0]!.pixels)
    const rougher = await sheetOf(one, asked({ update: whole(sheet(0.8)) }))
    expect(damaged).toBe(2)
    expect([...rougher.files.gloss!.slots[0]!.pixels.slice(0, 3)]).toEqual([50, 50, 50])
    // The same size of file decides what is checked, too.
    const larger = asked({ update: whole(sheet(0.8)), want: { kind: 'packing', report: { width: 100, height: 100 } } })
    expect((await sheetOf(one, larger)).report!.find(({ name }) => name === 'size')!.findings).toHaveLength(1)
  })
})
