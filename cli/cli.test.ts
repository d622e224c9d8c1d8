import { execFile } from 'node:child_process'
import { createHash } from 'node:crypto'
import { cpSync, existsSync, mkdirSync, readFileSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { buffer } from 'node:stream/consumers'
import sharp from 'sharp'
import { formOfBytes } from '#runtime/node/file-form'
import { readImage } from '#runtime/node/read-image'
import type { RasterImage } from '#core/field/pyramid'
import { parseDocument } from '#core/document/document'
import { readMesh } from '#core/mesh/read-mesh'
import { writeGlb } from '#core/mesh/write-glb'
import { python } from '#core/testing/python'
import { packMaterials } from '#runtime/node/material-file'
import { processMark } from '#runtime/node/own-folders'
import { materialFile, workFolder } from './testing/work-folder'

const { folder, at, grist, write } = workFolder()
afterAll(() => rmSync(folder, { recursive: true }))
const document = materialFile

test('a file of a material with its image is evaluated as the folder is', async () => {
  const png = await sharp({ create: { width: 4, height: 4, channels: 3, background: { r: 90, g: 60, b: 30 } } })
    .png()
    .toBuffer()
  const sha256 = createHash('sha256').update(png).digest('hex')
  const given = parseDocument(
    document({
      nodes: { p: { type: 'image', params: { image: `sha256:${sha256}` } } },
      layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { colour: { source: { node: 'p.colour' } } } }],
    }),
  )
  const zip = (documents: (typeof given)[]) =>
    buffer(packMaterials(documents, [{ name: 'photo.png', read: () => Readable.from([png]) }]))
  writeFileSync(at('one.zip'), await zip([given]))
  const done = await grist('eval', 'one.zip', '--output', 'colour', '--size', '4', '--out', 'one.png')
  expect([done.code, done.err]).toEqual([0, expect.not.stringContaining('rror')])
  const { data } = await sharp(at('one.png')).toColourspace('srgb').raw().toBuffer({ resolveWithObject: true })
  expect([...data.subarray(0, 3)]).toEqual([90, 60, 30])
  writeFileSync(at('two.zip'), await zip([given, { ...given, name: 'Other' }]))
  const two = await grist('eval', 'two.zip', '--output', 'colour', '--size', '4', '--out', 'two.png')
  expect(two.code).not.toBe(0)
  expect(two.err).toContain('holds 2 materials')
}, 60_000)

test('bake, check, remake: the same hashes in a fresh process, with an image and with dither', async () => {
  mkdirSync(at('doc'))
  await sharp({ create: { width: 8, height: 8, channels: 3, background: { r: 180, g: 105, b: 14 } } })
    .png()
    .toFile(at('doc/photo.png'))
  write(
    'doc/wall.json',
    document({
      nodes: { p: { type: 'image', params: { image: 'photo.png' } }, n: { type: 'noise' } },
      layers: [
        {
          kind: 'layer',
          id: 'a',
          name: 'A',
          cells: { colour: { source: { node: 'p.colour' } }, height: { source: { node: 'n.grey' } } },
        },
      ],
    }),
  )
  const baked = await grist(
    'bake',
    'doc/wall.json',
    '--packing',
    'occlusion-rough-metal-y-up',
    '--size',
    '64',
    '--out',
    'out',
    '--dither',
    '--threads',
    '2',
  )
  expect([baked.code, baked.err]).toEqual([0, ''])
  expect(readdirSync(at('out')).sort()).toEqual([
    'Wall_colour.png',
    'Wall_emission.png',
    'Wall_normal.png',
    'Wall_occlusion-rough-metal.png',
    'connections.txt',
    'images',
    'maps.txt',
    'material.mtlx',
    'record.json',
  ])
  expect(readFileSync(at('out/maps.txt'), 'utf8')).toContain('blue: Metallic')
  const { data } = await sharp(at('out/Wall_colour.png')).raw().toBuffer({ resolveWithObject: true })
  expect([...data.subarray(0, 4)]).toEqual([180, 105, 14, 255])

  const checked = await grist('check', 'out', '--json')
  expect(checked.code).toBe(0)
  expect((JSON.parse(checked.out) as { rule: string }[]).map(({ rule }) => rule)).toContain('constant-channels')

  // The image went along: the folder is made again from itself alone, wherever it is.
  renameSync(at('out'), at('elsewhere'))
  const again = await grist('remake', 'elsewhere/record.json', '--threads', '1')
  expect([again.code, again.out.match(/^same/gm)]).toEqual([0, ['same', 'same', 'same', 'same']])
  renameSync(at('elsewhere'), at('out'))
  const [image] = readdirSync(at('out/images'))
  renameSync(at(`out/images/${image}`), at('taken-away.png'))
  expect((await grist('remake', 'out/record.json', '--assets', 'doc')).code).toBe(0)

  // Another picture under the same name is not taken for it, and the option is named; a damaged file is noticed.
  await sharp({ create: { width: 8, height: 8, channels: 3, background: '#fff' } })
    .png()
    .toFile(at('doc/photo.png'))
  const other = await grist('remake', 'out/record.json', '--assets', 'doc')
  expect([other.code, other.err]).toEqual([1, expect.stringMatching(/"photo\.png" \(SHA-256 .*--assets DIR/)])
  writeFileSync(at('out/Wall_normal.png'), readFileSync(at('out/Wall_normal.png')).subarray(0, 400))
  const damaged = await grist('check', 'out')
  expect([damaged.code, damaged.err]).toEqual([1, expect.stringContaining('Wall_normal.png')])
})

test('a record with another document gives other bytes, and says which', async () => {
  cpSync('demo/limewash.json', at('lime.json'))
  await grist('bake', 'lime.json', '--packing', 'separate-maps', '--size', '32', '--out', 'lime', '--quiet')
  const record = JSON.parse(readFileSync(at('lime/record.json'), 'utf8')) as { document: { seed: number } }
  record.document.seed += 1
  writeFileSync(at('lime/record.json'), JSON.stringify(record))
  const { code, out } = await grist('remake', 'lime/record.json')
  expect([code, out]).toEqual([1, expect.stringMatching(/^DIFFERS .*height\.png$/m)])
  expect(out).toMatch(/^same .*opacity\.png$/m)
})

test('bake: names by their pattern, colour sharpened, both in the record and made again; what is missing is told', async () => {
  cpSync('demo/limewash.json', at('lime.json'))
  const slots = [0, 1, 2].map((component) => ({ channel: 'colour', component }))
  write('own.json', {
    format: 'amber-grist/packing',
    version: 1,
    name: 'own',
    title: 'Own',
    summary: '',
    pattern: '{project}-{delivery}-{map}',
    files: [
      { map: 'c', slots, transfer: 'srgb', format: 'png', bits: 8 },
      { map: 'j', slots, transfer: 'srgb', format: 'jpg', bits: 8 },
    ],
  })
  const bake = (out: string, ...more: string[]) =>
    grist('bake', 'lime.json', '--packing', 'own.json', '--size', '32', '--out', out, '--quiet', ...more)
  const names = ['--project', 'North lock', '--delivery', '7']
  expect((await bake('soft', ...names)).code).toBe(0)
  expect((await bake('crisp', ...names, '--sharpen', '1')).code).toBe(0)
  expect(readdirSync(at('crisp')).sort()).toEqual([
    'North-lock-7-c.png',
    'North-lock-7-j.jpg',
    'connections.txt',
    'maps.txt',
    'material.mtlx',
    'record.json',
  ])
  const pixels = (from: string) => readFileSync(at(`${from}/North-lock-7-c.png`))
  expect(pixels('crisp').equals(pixels('soft'))).toBe(false)
  expect(JSON.parse(readFileSync(at('crisp/record.json'), 'utf8'))).toMatchObject({
    sharpen: 1,
    names: { project: 'North lock', delivery: 7 },
  })
  const again = await grist('remake', 'crisp/record.json')
  expect([again.code, again.out.match(/^same/gm)?.length]).toEqual([0, 2])
  expect((await bake('none')).err).toContain('asks for {project}, which is not known here')
  expect(await bake('none', '--sharpen', '2')).toMatchObject({
    code: 2,
    err: expect.stringContaining('--sharpen') as string,
  })
  expect(existsSync(at('none'))).toBe(false)
})

test('a bake into a used folder is refused, or with --replace what was there is kept beside it whole', async () => {
  cpSync('demo/limewash.json', at('lime.json'))
  const bake = (...more: string[]) =>
    grist('bake', 'lime.json', '--packing', 'separate-maps', '--size', '16', '--out', 'used', ...more)
  expect((await bake()).code).toBe(0)
  writeFileSync(at('used/mine.txt'), 'mine')
  const refused = await bake()
  expect([refused.code, refused.err]).toEqual([1, expect.stringContaining('This folder is not empty')])
  expect(readFileSync(at('used/mine.txt'), 'utf8')).toBe('mine')
  const replaced = await bake('--replace', '--dither')
  expect([replaced.code, replaced.out]).toEqual([0, expect.stringMatching(/kept in .*used\.backup-1/)])
  expect(readFileSync(at('used.backup-1/mine.txt'), 'utf8')).toBe('mine')
  expect(existsSync(at('used/mine.txt'))).toBe(false)
  expect(readdirSync(folder).filter((name) => name.includes('.part-'))).toEqual([])
  // What a process left that was killed in the middle is cleared by the next bake there; that of a living one is not.
  const living = `used.part-${processMark()}`
  mkdirSync(at('used.part-999999999-1'))
  mkdirSync(at(living))
  expect((await bake('--replace')).code).toBe(0)
  expect(readdirSync(folder).filter((name) => name.includes('.part-'))).toEqual([living])
  rmSync(at(living), { recursive: true })
})

test('a bake over an earlier one makes only what changed, or all of it anew; channels are sharpened by name', async () => {
  cpSync('demo/limewash.json', at('changed.json'))
  const bake = (...more: string[]) =>
    grist('bake', 'changed.json', '--packing', 'separate-maps', '--size', '16', '--out', 'changed', ...more)
  expect((await bake()).out).not.toContain('as it was')
  const linesOf = (out: string) => out.split('\n').filter((line) => line.includes(' bytes  '))
  const again = linesOf((await bake('--replace')).out)
  expect(again.every((line) => line.endsWith('as it was'))).toBe(true)
  const sharper = linesOf((await bake('--replace', '--sharpen', 'roughness=0.5')).out)
  expect(sharper.filter((line) => !line.endsWith('as it was')).map((line) => line.split('  ')[0])).toEqual([
    expect.stringContaining('roughness'),
  ])
  expect((await bake('--replace', '--anew')).out).not.toContain('as it was')
  // A file that was changed by hand is not taken for what was delivered.
  const [name] = again[0]!.split('  ')
  const bytes = readFileSync(at(`changed/${name}`))
  bytes[bytes.length - 20]! ^= 1
  writeFileSync(at(`changed/${name}`), bytes)
  const whole = createHash('sha256')
    .update(readFileSync(at(`changed/${again[1]!.split('  ')[0]}`)))
    .digest('hex')
  const mended = await bake('--replace')
  expect(mended.code).toBe(0)
  expect(mended.out).not.toContain('as it was')
  expect(
    createHash('sha256')
      .update(readFileSync(at(`changed/${again[1]!.split('  ')[0]}`)))
      .digest('hex'),
  ).toBe(whole)
  expect((await bake('--sharpen', 'normal=0.5')).code).toBe(2)
})

/** A wall in the middle of its picture, and a material for parts whose roughness is its height. */
function wallWithMaterial(): void {
  writeFileSync(
    at('wall.obj'),
    'o wall\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0.25 0.25\nvt 0.75 0.25\nvt 0.75 0.75\nvt 0.25 0.75\nf 1/1 2/2 3/3 4/4\n',
  )
  writeFileSync(
    at('part.json'),
    JSON.stringify({
      format: 'amber-grist/material',
      version: 2,
      name: 'Part',
      domain: { kind: 'part' },
      nodes: { up: { type: 'axis-gradient', params: { floor: 0 } } },
      layers: [{ kind: 'layer', id: 'one', name: 'One', cells: { roughness: { source: { node: 'up.gradient' } } } }],
    }),
  )
}

test('a material for parts is baked on a part of a mesh, the same again; without one it says what it lacks', async () => {
  wallWithMaterial()
  const packing = ['--packing', 'separate-maps', '--size', '64']
  const alone = await grist('bake', 'part.json', ...packing, '--out', 'part-alone')
  expect([alone.code, alone.err]).toEqual([1, expect.stringContaining('lies on no part yet')])
  const mesh = ['--mesh', 'wall.obj', '--rays', '4', '--samples', '1']
  expect((await grist('bake', 'part.json', ...packing, ...mesh, '--out', 'part-on')).code).toBe(0)
  const { data, info } = await sharp(at('part-on/Part_roughness.png')).raw().toBuffer({ resolveWithObject: true })
  const roughness = (x: number, y: number): number => data[(y * 64 + x) * info.channels]! / 255
  // The wall fills the middle of the picture; roughness is its height, and what lies around it is padded.
  expect(roughness(32, 17)).toBeCloseTo(1 - 1.5 / 32, 1)
  expect(roughness(32, 46)).toBeCloseTo(1.5 / 32, 1)
  expect(roughness(32, 0)).toBeGreaterThan(0.9)
  const again = await grist('remake', 'part-on/record.json', '--mesh', 'wall.obj')
  expect([again.code, again.out]).toEqual([0, expect.not.stringContaining('DIFFERS')])
  const other = await grist('bake', 'part.json', ...packing, ...mesh, '--part', 'roof', '--out', 'part-roof')
  expect([other.code, other.err]).toEqual([2, expect.stringContaining('There are: wall')])
})

test('a part with two UV sets is baked in the one that is named, and made again in it unasked', async () => {
  wallWithMaterial()
  const { mesh } = await readMesh('wall.obj', readFileSync(at('wall.obj')), { decoders: {} })
  // In its second set the wall lies on its side in the left half: what is up is to the right.
  const turned = mesh.uvSets[0]!.map((_, i, uvs) => (i % 2 ? uvs[i - 1]! : (1 - uvs[i + 1]!) / 2))
  const parts = [{ ...mesh.parts[0]!, uvSets: 2 }]
  writeFileSync(at('wall.glb'), await writeGlb({ ...mesh, uvSets: [mesh.uvSets[0]!, turned], parts }))
  const bake = ['--packing', 'separate-maps', '--size', '64', '--mesh', 'wall.glb', '--rays', '4', '--samples', '1']
  expect((await grist('bake', 'part.json', ...bake, '--uv-set', '2', '--out', 'part-second')).code).toBe(0)
  const { data, info } = await sharp(at('part-second/Part_roughness.png')).raw().toBuffer({ resolveWithObject: true })
  const roughness = (x: number, y: number): number => data[(y * 64 + x) * info.channels]! / 255
  expect(roughness(22, 32)).toBeCloseTo(1 - 1.5 / 16, 1)
  expect(roughness(9, 32)).toBeCloseTo(1.5 / 16, 1)
  const again = await grist('remake', 'part-second/record.json', '--mesh', 'wall.glb')
  expect([again.code, again.out]).toEqual([0, expect.not.stringContaining('DIFFERS')])
})

test('a model is surveyed: its layout in words and numbers, its mesh data the same by one thread and by two', async () => {
  // A floor with a wall whose UVs lie over half of the floor's.
  const floor = 'o floor\nv -1 0 1\nv 1 0 1\nv 1 0 -1\nv -1 0 -1\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n'
  const wall = 'v 0 0 -1\nv 0 0 1\nv 0 2 1\nv 0 2 -1\nvt 0.5 0\nvt 0.5 1\nf 5/1 6/5 7/6 8/4\n'
  writeFileSync(at('floor.obj'), floor)
  writeFileSync(at('both.obj'), floor + wall)
  expect((await grist('survey', 'floor.obj')).out).toContain('512 texels a metre at 1024')
  const both = await grist('survey', 'both.obj', '--json')
  expect(both.code).toBe(1)
  const [part] = (JSON.parse(both.out) as { parts: { layout: object; problems: string[] }[] }).parts
  expect(part!.layout).toMatchObject({ islands: 2, overlappingArea: 0.5, tiles: [1001] })
  expect(part!.problems[0]).toMatch(/pairs of triangles overlap/)
  const bakeWith = async (threads: number) => {
    const out = `survey-${threads}`
    const kinds = ['--kinds', 'occlusion,position,normal', '--size', '64', '--rays', '16', '--samples', '4']
    const { code } = await grist('survey', 'floor.obj', ...kinds, '--out', out, '--threads', String(threads))
    expect(code).toBe(0)
    return readdirSync(at(out)).map((name) => [name, readFileSync(at(`${out}/${name}`)).toString('base64')])
  }
  const one = await bakeWith(1)
  const files = ['floor_normal.png', 'floor_occlusion.png', 'floor_position.exr', 'record.json']
  expect(one.map(([name]) => name)).toEqual(files)
  expect(await bakeWith(2)).toEqual(one)
  // The record makes the same again; a model that has changed does not.
  const again = await grist('remake', 'survey-1/record.json')
  expect([again.code, again.out.match(/^same {4}/gm)]).toEqual([0, Array(3).fill('same    ')])
  writeFileSync(at('floor.obj'), floor.replace('v -1 0 1', 'v -1 0.5 1'))
  const other = await grist('remake', 'survey-1/record.json')
  expect([other.code, other.out]).toEqual([1, expect.stringContaining('DIFFERS floor_position.exr')])
  writeFileSync(at('floor.obj'), floor)
  const vertex = ['--vertex', 'occlusion', '--size', '64']
  expect((await grist('survey', 'floor.obj', ...vertex, '--vertex-out', 'floor.ply')).code).toBe(0)
  expect(readFileSync(at('floor.ply'), 'latin1')).toContain('property uchar red')
  expect((await grist('survey', 'floor.obj', ...vertex, '--vertex-out', 'floor.fbx')).code).toBe(2)
  expect((await grist('survey', 'floor.obj', '--size', '100')).err).toContain('Expected --size as')
  expect((await grist('survey', 'floor.obj', '--kinds', 'height', '--out', 'h')).code).toBe(2)
  expect((await grist('survey', 'nothing.glb')).code).toBe(1)
  // What lies over one another is cured by new UVs.
  expect((await grist('unwrap', 'both.obj', '--out', 'both.glb', '--size', '256', '--spacing', '4')).code).toBe(0)
  const cured = await grist('survey', 'both.glb', '--size', '256')
  expect([cured.code, cured.out]).toEqual([0, expect.stringContaining('2 islands')])
  expect((await grist('unwrap', 'both.obj', '--out', 'both.obj')).code).toBe(2)
})

test('a place where no folder can be made is told at once', async () => {
  cpSync('demo/limewash.json', at('lime.json'))
  const started = performance.now()
  const { code, err } = await grist(
    'bake',
    'lime.json',
    '--packing',
    'separate-maps',
    '--size',
    '16',
    '--out',
    '/proc/x',
  )
  expect([code, err]).toEqual([1, expect.stringContaining('/proc/x')])
  expect(performance.now() - started).toBeLessThan(20_000)
})

test('names of 200 letters of any script fit into file names, whole', async () => {
  const name = '城'.repeat(199) + '🧱'
  write('long.json', document({ name }))
  const { code, err } = await grist(
    'bake',
    'long.json',
    '--packing',
    'separate-maps',
    '--size',
    '8',
    '--out',
    'long',
    '--quiet',
  )
  expect([code, err]).toEqual([0, ''])
  for (const file of readdirSync(at('long'))) {
    expect(Buffer.byteLength(file)).toBeLessThanOrEqual(255)
    expect(file).toMatch(/^(城+_[a-z]+\.png|connections\.txt|maps\.txt|material\.mtlx|record\.json)$/)
  }
})

test('a folder of maps without a record is judged by names and contents, and findings say where', async () => {
  cpSync('demo/limewash.json', at('lime.json'))
  await grist('bake', 'lime.json', '--packing', 'occlusion-rough-metal-y-up', '--size', '64', '--out', 'set', '--quiet')
  rmSync(at('set/record.json'))
  writeFileSync(at('set/readme.txt'), 'about')
  const well = await grist('check', 'set')
  expect(well.out).toMatch(/_colour\.png: colour\n.*\n? *.*_normal\.png: normal/s)
  expect(well.out).toContain('occlusion-rough-metal.png: occlusion, roughness, metallic')
  expect(well.out).toContain('not looked at: readme.txt')
  // Colour with a border that does not meet.
  const ramp = Buffer.from(Array.from({ length: 64 * 64 * 3 }, (_, i) => 60 + 2 * (Math.floor(i / 3) % 64)))
  await sharp(ramp, { raw: { width: 64, height: 64, channels: 3 } })
    .png()
    .toFile(at('set/wall_albedo.png'))
  for (const file of readdirSync(at('set'))) if (!file.startsWith('wall')) rmSync(at(`set/${file}`))
  const broken = await grist('check', 'set')
  expect(broken.code).toBe(1)
  expect(broken.out).toMatch(/tile-borders: colour .*left and right.* At 0\.000, 0\.100 \(texel 0, 6\)/)
  rmSync(at('set/wall_albedo.png'))
  expect((await grist('check', 'set')).err).toContain('neither a record.json nor a file')
})

test('files are replaced in their own form: name, size, format, blocks, mips and what channels hold; as they were they are kept', async () => {
  const cells = (colour: string, rough: number) => ({
    colour: { source: { value: colour } },
    roughness: { source: { value: rough } },
    metallic: { source: { node: 'm.result' } },
    normal: { source: { node: 'bent.normal' } },
  })
  const nodes = {
    n: { type: 'noise', params: { cells: [4, 4] } },
    m: { type: 'threshold', inputs: { source: 'n.grey' } },
    bent: { type: 'height-to-normal', inputs: { height: 'n.grey' } },
  }
  for (const [name, colour, rough] of [
    ['old', '#b87d54', 0.3],
    ['new', '#406080', 0.8],
  ] as const)
    write(
      `${name}.json`,
      document({ nodes, layers: [{ kind: 'layer', id: 'all', name: 'All', cells: cells(colour, rough) }] }),
    )
  const plane = (channel: string, component = 0, invert = false) => ({ channel, component, invert })
  write('own.json', {
    ...{ format: 'amber-grist/packing', version: 1, name: 'own', title: 'Own', summary: '', pattern: 'crate_{map}' },
    files: [
      {
        map: 'colour',
        format: 'dds',
        bits: 8,
        block: 'bc7',
        mips: true,
        transfer: 'srgb',
        slots: [0, 1, 2].map((c) => plane('colour', c)),
      },
      {
        map: 'normal',
        format: 'tga',
        bits: 8,
        transfer: 'raw',
        slots: [0, 1, 2].map((c) => plane('normal', c, c === 1)),
      },
      {
        map: 'rma',
        format: 'png',
        bits: 16,
        transfer: 'raw',
        slots: [plane('roughness'), plane('metallic'), plane('occlusion')],
      },
      { map: 'emission', format: 'exr', bits: 16, transfer: 'raw', slots: [0, 1, 2].map((c) => plane('emission', c)) },
    ],
  })
  const bake = (doc: string, size: string, out: string, packing = 'own.json') =>
    grist('bake', doc, '--packing', packing, '--size', size, '--out', out, '--quiet')
  await bake('old.json', '32', 'engine')
  await bake('new.json', '32', 'expected')
  await bake('new.json', '64', 'source', 'separate-maps')
  for (const name of ['record.json', 'maps.txt', 'connections.txt', 'material.mtlx'])
    for (const folder of ['engine', 'source']) rmSync(at(`${folder}/${name}`), { force: true })
  rmSync(at(`source/${readdirSync(at('source')).find((name) => name.includes('emission'))!}`))
  const before = new Map(readdirSync(at('engine')).map((name) => [name, readFileSync(at(`engine/${name}`))]))
  const result = await grist('replace', 'engine', '--with', 'source')
  expect(result).toMatchObject({ code: 0, err: '' })
  expect(result.out).toContain('left as it is: crate_emission.exr, it holds emission, which the set has not')
  expect(readdirSync(at('engine'))).toEqual([...before.keys(), 'before-1'].sort())
  for (const [name, bytes] of before) {
    const now = readFileSync(at(`engine/${name}`))
    if (name.includes('emission')) {
      expect(now.equals(bytes)).toBe(true)
      continue
    }
    expect(readFileSync(at(`engine/before-1/${name}`)).equals(bytes)).toBe(true)
    expect(now.equals(bytes)).toBe(false)
    // The same form, and what the new material itself is delivered as, but for another size of its source.
    const [made, wanted] = [await readImage(at(`engine/${name}`)), await readImage(at(`expected/${name}`))]
    const shape = ({ width, height, channels, bits }: typeof made) => ({ width, height, channels, bits })
    expect(shape(made)).toEqual(shape(wanted))
    expect(formOfBytes(readFileSync(at(`engine/${name}`)), made)).toEqual(
      formOfBytes(readFileSync(at(`expected/${name}`)), wanted),
    )
    const off = made.values.map((v, i) => Math.abs(v - wanted.values[i]!))
    expect([name, off.reduce((sum, v) => sum + v, 0) / off.length < 0.03]).toEqual([name, true])
  }
  // In a folder that has specular colours the other colour is what is diffuse.
  await bake('old.json', '32', 'specular', 'specular-gloss')
  await bake('new.json', '32', 'specular-expected', 'specular-gloss')
  for (const name of ['record.json', 'maps.txt']) rmSync(at(`specular/${name}`))
  expect((await grist('replace', 'specular', '--with', 'source')).code).toBe(0)
  const diffuse = async (folder: string): Promise<RasterImage> =>
    readImage(at(`${folder}/${readdirSync(at(folder)).find((name) => name.includes('diffuse'))!}`))
  const [replaced, expected] = [await diffuse('specular'), await diffuse('specular-expected')]
  const apart = replaced.values.map((v, i) => Math.abs(v - expected.values[i]!))
  expect(apart.reduce((sum, v) => sum + v, 0) / apart.length).toBeLessThan(0.03)
  expect((await grist('replace', 'engine', '--with', 'nowhere')).err).toContain('There is no such file or folder')
  expect(readdirSync(at('engine')).filter((name) => name.startsWith('.'))).toEqual([])
})

test('eval writes float32 values that NumPy reads, and pictures', async () => {
  write('ramp.json', document({ nodes: { r: { type: 'ramp' }, c: { type: 'constant', params: { value: 0.25 } } } }))
  expect((await grist('eval', 'ramp.json', '--output', 'r.grey', '--size', '16', '--out', 'r.npy')).code).toBe(0)
  const values = python(`out = np.load(${JSON.stringify(at('r.npy'))})`, new Float32Array(1), [1])
  expect(values).toHaveLength(256)
  expect(values[3]).toBeCloseTo(3.5 / 16, 6)
  for (const name of ['r.exr', 'r.tiff', 'r.png']) {
    expect((await grist('eval', 'ramp.json', '--output', 'r.grey', '--size', '16x16', '--out', name)).code).toBe(0)
    expect(existsSync(at(name))).toBe(true)
  }
  const { data } = await sharp(at('r.png'))
    .toColourspace('grey16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true })
  expect(data.readUInt16LE(2 * 3)).toBe(Math.round((3.5 / 16) * 65535))
})

test('check of a document: a ramp in height does not tile; exit 1', async () => {
  write(
    'edge.json',
    document({
      nodes: { r: { type: 'ramp' } },
      layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { height: { source: { node: 'r.grey' } } } }],
    }),
  )
  const { code, out } = await grist('check', 'edge.json', '--size', '64')
  expect(code).toBe(1)
  expect(out).toMatch(/■ error {3}tile-borders: height does not continue from left and right/)
})

test('lists nodes and packings; help', async () => {
  const nodes = JSON.parse((await grist('nodes', '--json')).out) as { type: string }[]
  for (const type of [
    'constant',
    'noise',
    'cells',
    'ramp',
    'image',
    'levels',
    'threshold',
    'compress-range',
    'invert',
    'gradient-remap',
    'blend',
    'math',
    'warp',
    'blur',
    'height-to-normal',
  ])
    expect(nodes.map((node) => node.type)).toContain(type)
  expect((await grist('packings')).out).toContain('occlusion-rough-metal-y-down')
  expect(await grist('help')).toMatchObject({ code: 0, out: expect.stringContaining('grist bake') as string })
  expect((await grist()).code).toBe(2)
})

describe('errors say where and what to do; exit 2 for usage, 1 for the rest; nothing is left behind', () => {
  beforeAll(() => {
    write('text.json', 'not json')
    write('bad.json', document({ seed: -1 }))
    write(
      'loop.json',
      document({
        nodes: {
          a: { type: 'invert', inputs: { source: 'b.result' } },
          b: { type: 'invert', inputs: { source: 'a.result' } },
        },
        layers: [{ kind: 'layer', id: 'x', name: 'X', cells: { height: { source: { node: 'a.result' } } } }],
      }),
    )
    write(
      'octaves.json',
      document({
        nodes: { n: { type: 'noise', params: { octaves: 99 } } },
        layers: [{ kind: 'layer', id: 'x', name: 'X', cells: { height: { source: { node: 'n.grey' } } } }],
      }),
    )
    write(
      'photo.json',
      document({
        nodes: { p: { type: 'image', params: { image: '../secret.png' } } },
        layers: [{ kind: 'layer', id: 'x', name: 'X', cells: { colour: { source: { node: 'p.colour' } } } }],
      }),
    )
    write('ok.json', document({}))
    write('large.json', ' '.repeat(9 << 20))
    write('a-file', 'x')
  })
  test.each([
    [['frobnicate'], 2, 'There is no command "frobnicate"'],
    [['bake', 'ok.json', '--packing', 'separate-maps'], 2, '--out is missing'],
    [['bake', '--packing', 'separate-maps', '--out', 'x'], 2, 'Which document?'],
    [
      ['bake', 'ok.json', '--packing', 'separate-maps', '--out', 'x', '--size', 'big'],
      2,
      'whole number above 0 for --size',
    ],
    [['bake', 'ok.json', '--colour'], 2, '--colour'],
    [['bake', 'ok.json', '--packing', 'none', '--out', 'x'], 1, 'There is no packing "none"'],
    [['bake', 'absent.json', '--packing', 'separate-maps', '--out', 'x'], 1, 'absent.json: There is no such file'],
    [['bake', 'text.json', '--packing', 'separate-maps', '--out', 'x'], 1, 'text.json: Expected JSON'],
    [['bake', 'bad.json', '--packing', 'separate-maps', '--out', 'x'], 1, 'bad.json, document "Wall": seed'],
    [['bake', 'large.json', '--packing', 'separate-maps', '--out', 'x'], 1, 'large.json: Expected at most 8388608'],
    [['bake', 'loop.json', '--packing', 'separate-maps', '--out', 'x'], 1, 'node a → node b → node a'],
    [
      ['bake', 'octaves.json', '--packing', 'separate-maps', '--out', 'x'],
      1,
      'document "Wall", layer "x", node "n", parameter "octaves"',
    ],
    [['bake', 'photo.json', '--packing', 'separate-maps', '--out', 'x'], 1, "inside the document's folder"],
    [['bake', 'ok.json', '--packing', 'separate-maps', '--out', 'a-file/x', '--size', '8'], 1, 'this is a file'],
    [['bake', 'ok.json', '--packing', 'separate-maps', '--out', 'x', '--size', '40000'], 1, 'from 1 to 16384'],
    [['bake', 'octaves.json', '--packing', 'separate-maps', '--out', 'x', '--memory', '0'], 2, '--memory'],
    [['eval', 'ok.json', '--output', 'height', '--out', 'x.gif'], 2, '.gif'],
    [['eval', 'ok.json', '--output', 'nothing', '--out', 'x.png'], 1, 'There is no channel "nothing"'],
    [['remake', 'ok.json'], 1, 'format'],
    [['check', 'absent'], 1, 'There is no such file'],
  ] as [string[], number, string][])('grist %j', async (words, code, message) => {
    const result = await grist(...words)
    expect([result.code, result.err]).toEqual([code, expect.stringContaining(message)])
    expect(result.err).not.toMatch(/\n\s+at /)
    expect(readdirSync(folder).filter((name) => name.startsWith('x') || name.includes('.part-'))).toEqual([])
  })
})

test('interrupted: exit 130, nothing half-written', async () => {
  cpSync('demo/quay-setts.json', at('setts.json'))
  const child = execFile(
    join(process.cwd(), 'bin/grist'),
    ['bake', 'setts.json', '--packing', 'separate-maps', '--size', '2048', '--out', 'big'],
    { cwd: folder },
  )
  const ended = new Promise<number | null>((resolve) => child.on('exit', resolve))
  while (!readdirSync(folder).some((name) => name.startsWith('big.part-')))
    await new Promise((resolve) => setTimeout(resolve, 50))
  await new Promise((resolve) => setTimeout(resolve, 1500))
  child.kill('SIGINT')
  expect(await ended).toBe(130)
  expect(readdirSync(folder).filter((name) => name.startsWith('big'))).toEqual([])
})
