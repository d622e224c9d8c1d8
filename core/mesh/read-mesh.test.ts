import type { Document } from '@gltf-transform/core'
import { Document as GltfDocument, Primitive, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS, KHRTextureTransform } from '@gltf-transform/extensions'
import { draco, meshopt, quantize } from '@gltf-transform/functions'
import draco3d from 'draco3dgltf'
import { MeshoptDecoder, MeshoptEncoder } from 'meshoptimizer'
import { GristError } from '../errors'
import { randomNumbers } from '../testing/random-values'
import type { Mesh } from './mesh'
import { boxOf } from './mesh'
import { writeObj } from './write-obj'
import { readMesh } from './read-mesh'
import { areaOf, blockObj, volumeOf } from './testing/shapes'

const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text)
const decoders = { 'draco3d.decoder': await draco3d.createDecoderModule(), 'meshopt.decoder': MeshoptDecoder }
await Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready])
const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
  ...decoders,
  'draco3d.encoder': await draco3d.createEncoderModule(),
  'meshopt.encoder': MeshoptEncoder,
})
const host = { decoders }
const read = async (name: string, bytes: Uint8Array, more = {}) =>
  (await readMesh(name, bytes, { ...host, ...more })).mesh
const block = () => read('block.obj', utf8(blockObj(2, 3, 5)))
/** Code, place and words of what goes wrong. */
const fault = (name: string, bytes: Uint8Array) =>
  read(name, bytes).then(
    () => null,
    (error: unknown) =>
      error instanceof GristError ? { code: error.code, ...error.place, words: error.detail } : error,
  )

/** A prism of radius 1 and height 1 about Y; its corners are those of its side and of its caps. */
const prismObj = (sides: number): string => {
  const turns = Array.from({ length: sides }, (_, i) => (i / sides) * 2 * Math.PI)
  const rings = [0, 1].flatMap((y) => turns.map((a) => `v ${Math.cos(a)} ${y} ${-Math.sin(a)}`))
  const side = turns.map((_, i) => {
    const next = ((i + 1) % sides) + 1
    return `f ${i + 1} ${next} ${next + sides} ${i + 1 + sides}`
  })
  const top = turns.map((_, i) => sides + 1 + i)
  const foot = turns.map((_, i) => sides - i)
  return [...rings, ...side, `f ${top.join(' ')}`, `f ${foot.join(' ')}`].join('\n')
}

/** The direction of each triangle, worked here. */
const facesOf = ({ positions: p, triangles }: Mesh): number[][] =>
  Array.from({ length: triangles.length / 3 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => [0, 1, 2].map((axis) => p[triangles[t * 3 + k]! * 3 + axis]!))
    const [u, v] = [b!.map((x, i) => x - a![i]!), c!.map((x, i) => x - a![i]!)]
    const [ux, uy, uz] = u as [number, number, number]
    const [vx, vy, vz] = v as [number, number, number]
    const cross = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
    return cross.map((x) => x / Math.hypot(...cross))
  })

/** How far the normals of corners are from these at most: one for each triangle, or three. */
const turnedFrom = (
  { normals, triangles }: Mesh,
  wanted: readonly (readonly (number | readonly number[])[])[],
): number =>
  Math.max(
    ...wanted.flatMap((of, t) =>
      [0, 1, 2].map((k) => {
        const own = (typeof of[0] === 'number' ? of : of[k]) as readonly number[]
        return Math.hypot(...own.map((x, axis) => x - normals[triangles[t * 3 + k]! * 3 + axis]!))
      }),
    ),
  )

const round = await read('round.obj', utf8(prismObj(24)))

/** The block as glTF, under a node. */
async function blockGltf(change: (document: Document) => void = () => {}): Promise<Document> {
  const mesh = await block()
  const document = new GltfDocument()
  const buffer = document.createBuffer()
  const accessor = (array: Float32Array | Uint32Array, type: 'VEC3' | 'VEC2' | 'SCALAR') =>
    document
      .createAccessor()
      .setArray(new (array.constructor as typeof Float32Array)(array) as never)
      .setType(type)
      .setBuffer(buffer)
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor(mesh.positions, 'VEC3'))
    .setAttribute('NORMAL', accessor(mesh.normals, 'VEC3'))
    .setAttribute('TEXCOORD_0', accessor(mesh.uvSets[0]!, 'VEC2'))
    .setIndices(accessor(mesh.triangles, 'SCALAR'))
    .setMaterial(document.createMaterial('steel'))
  const node = document.createNode('block').setMesh(document.createMesh('block').addPrimitive(primitive))
  document.getRoot().setDefaultScene(document.createScene().addChild(node))
  change(document)
  return document
}
const glb = async (document: Document) => io.writeBinary(document)

describe('OBJ', () => {
  test('a block of quads: its volume, its area, its names, v from the top', async () => {
    const mesh = await block()
    expect(volumeOf(mesh)).toBeCloseTo(30, 5)
    expect(areaOf(mesh)).toBeCloseTo(62, 5)
    expect(mesh.parts).toEqual([{ name: 'block', material: 'steel', from: 0, count: 12, uvSets: 1 }])
    // The first corner of the front, below left: (0, 0) in OBJ is (0, 1) here.
    expect([...mesh.positions.subarray(0, 3), ...mesh.uvSets[0]!.subarray(0, 2)]).toEqual([0, 0, 5, 0, 1])
    expect(mesh.notes).toEqual(['Normals were made, with hard edges from 60°.'])
    expect(turnedFrom(mesh, facesOf(mesh))).toBeLessThan(1e-6)
  })

  test('without normals a prism of 24 sides is round at its side and hard at its caps', async () => {
    const mesh = await read('p.obj', utf8(prismObj(24)))
    const faces = facesOf(mesh)
    const wanted = faces.map(([, y], t) =>
      [0, 1, 2].map((k) => {
        const at = mesh.triangles[t * 3 + k]! * 3
        return Math.abs(y!) > 0.5 ? [0, Math.sign(y!), 0] : [mesh.positions[at]!, 0, mesh.positions[at + 2]!]
      }),
    )
    expect(turnedFrom(mesh, wanted)).toBeLessThan(1e-4)
    // Two rings of its side, and two of its caps.
    expect(mesh.positions.length / 3).toBe(96)
  })

  test('a concave face is cut, not fanned: the area of an L and of an arrow, worked by hand', async () => {
    const ell = 'v 0 0 0\nv 4 0 0\nv 4 1 0\nv 1 1 0\nv 1 3 0\nv 0 3 0\nf 4 5 6 1 2 3\n'
    const up = await read('l.obj', utf8(ell))
    expect(areaOf(up)).toBeCloseTo(4 + 2, 6)
    expect(areaOf(await read('a.obj', utf8('v 0 0 0\nv 2 1 0\nv 0 2 0\nv 1 1 0\nf 3 4 1 2\n')))).toBeCloseTo(1, 6)
    // Seen from the other side the winding stays.
    expect([...up.normals.subarray(0, 3)]).toEqual([0, 0, 1])
    const down = await read('l.obj', utf8(ell.replace('4 5 6 1 2 3', '3 2 1 6 5 4')))
    expect([...down.normals.subarray(0, 3)]).toEqual([0, 0, -1])
  })

  test('indices from the end, lines that go on, and units', async () => {
    const text = 'v 0 0 0\nv 100 0 \\\n0\nv 0 100 0\nf -3 -2 -1\n'
    const { mesh } = await readMesh('t.obj', utf8(text), host, { metresPerUnit: 0.01 })
    expect(boxOf(mesh)).toEqual({ min: [0, 0, 0], max: [1, 1, 0] })
  })

  test('what cannot be is refused with its line; what has no area is left out', async () => {
    const at = (line: number) => expect.objectContaining({ code: 'mesh-invalid', line, file: 'a.obj' })
    expect(await fault('a.obj', utf8('v 0 0 0\nf 1 2 3\n'))).toEqual(at(2))
    expect(await fault('a.obj', utf8('v 0 0 x\n'))).toEqual(at(1))
    expect(await fault('a.obj', utf8('v 0 0 0\nv 1 0 0\nf 1 2\n'))).toEqual(at(3))
    expect(await fault('a.obj', utf8(''))).toMatchObject({ words: 'There are no triangles with an area.' })
    expect(await fault('a.fbx', utf8(''))).toMatchObject({ code: 'file-unsupported' })
    const mesh = await read('a.obj', utf8('v 0 0 0\nv 1 0 0\nv 0 1 0\nv 2 0 0\nf 1 2 3\nf 1 2 4\n'))
    expect([mesh.triangles.length, mesh.notes[0]]).toEqual([3, '1 triangle without area left out.'])
  })
})

test('what is written as OBJ comes in again, corner by corner', async () => {
  const mesh = await block()
  const corners = mesh.positions.length / 3
  const colours = Float32Array.from({ length: corners * 4 }, (_, i) => (i % 4 === 3 ? 1 : ((i * 37) % 256) / 255))
  const read = (await readMesh('t.obj', utf8(writeObj({ ...mesh, colours }, { library: 'a.mtl' })), host)).mesh
  expect(read.parts.map(({ name, count }) => [name, count])).toEqual(mesh.parts.map(({ name, count }) => [name, count]))
  mesh.triangles.forEach((vertex, i) => {
    const other = read.triangles[i]!
    const near = (a: Float32Array, b: Float32Array, each: number, count = each): void => {
      for (let k = 0; k < count; k++) expect(b[other * each + k]).toBeCloseTo(a[vertex * each + k]!, 5)
    }
    near(mesh.positions, read.positions, 3)
    near(mesh.normals, read.normals, 3)
    near(mesh.uvSets[0]!, read.uvSets[0]!, 2)
    near(colours, read.colours!, 4, 3)
  })
})

describe('PLY and STL', () => {
  const header = (form: string, faces: number) =>
    [
      `ply\nformat ${form} 1.0\ncomment by hand\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z`,
      'property uchar red\nproperty uchar green\nproperty uchar blue\nproperty float s\nproperty float t',
      `element face ${faces}\nproperty list uchar int vertex_indices\nend_header\n`,
    ].join('\n')
  const corners = [
    [0, 0, 0, 255, 0, 0, 0, 0],
    [2, 0, 0, 0, 255, 0, 1, 0],
    [2, 2, 0, 0, 0, 255, 1, 1],
    [0, 2, 0, 188, 188, 188, 0, 1],
  ]
  const binary = (little: boolean) => {
    const head = utf8(header(`binary_${little ? 'little' : 'big'}_endian`, 1))
    const body = new DataView(new ArrayBuffer(4 * 23 + 17))
    corners.forEach((row, i) =>
      row.forEach((v, k) => {
        const at = i * 23
        if (k < 3) body.setFloat32(at + k * 4, v, little)
        else if (k < 6) body.setUint8(at + 12 + k - 3, v)
        else body.setFloat32(at + 15 + (k - 6) * 4, v, little)
      }),
    )
    body.setUint8(92, 4)
    for (let k = 0; k < 4; k++) body.setInt32(93 + k * 4, k, little)
    const bytes = new Uint8Array(head.length + body.byteLength)
    bytes.set(head)
    bytes.set(new Uint8Array(body.buffer), head.length)
    return bytes
  }

  test('text and both byte orders hold the same quad, with colours in linear light', async () => {
    const text = utf8(`${header('ascii', 1)}${corners.map((row) => row.join(' ')).join('\n')}\n4 0 1 2 3\n`)
    const meshes = await Promise.all([text, binary(true), binary(false)].map((bytes) => read('q.ply', bytes)))
    for (const mesh of meshes) expect(mesh).toEqual(meshes[0])
    expect(areaOf(meshes[0]!)).toBeCloseTo(4, 6)
    expect([...meshes[0]!.uvSets[0]!]).toEqual([0, 1, 1, 1, 1, 0, 0, 0])
    // sRGB 188 is half the light (IEC 61966-2-1).
    expect(meshes[0]!.colours![12]).toBeCloseTo(0.5029, 3)
    expect(await fault('q.ply', binary(true).slice(0, -3))).toMatchObject({ code: 'mesh-invalid' })
    expect(await fault('q.ply', utf8(header('ascii', 9)))).toMatchObject({
      words: expect.stringContaining('ends before'),
    })
  })

  test('STL: text and binary, with Z up turned to Y up', async () => {
    const facet = 'facet normal 0 0 1\nouter loop\nvertex 0 0 7\nvertex 1 0 7\nvertex 0 2 7\nendloop\nendfacet\n'
    const text = await read('a.stl', utf8(`solid a\n${facet}endsolid\n`))
    const bytes = new DataView(new ArrayBuffer(134))
    bytes.setUint32(80, 1, true)
    ;[0, 0, 1, 0, 0, 7, 1, 0, 7, 0, 2, 7].forEach((v, i) => bytes.setFloat32(84 + i * 4, v, true))
    expect(await read('a.stl', new Uint8Array(bytes.buffer))).toEqual(text)
    expect([...text.normals.subarray(0, 3)].map(Math.abs)).toEqual([0, 1, 0])
    expect(boxOf(text)).toEqual({ min: [0, 7, -2], max: [1, 7, 0] })
    bytes.setUint32(80, 0xffffffff, true)
    expect(await fault('a.stl', new Uint8Array(bytes.buffer))).toMatchObject({ code: 'mesh-invalid' })
  })
})

describe('glTF', () => {
  test('binary, and JSON with its buffer beside it', async () => {
    const document = await blockGltf()
    const mesh = await read('b.glb', await glb(document))
    expect(mesh.parts).toEqual([{ name: 'block', material: 'steel', from: 0, count: 12, uvSets: 1 }])
    expect(mesh.uvSets[0]).toEqual((await block()).uvSets[0])
    const { json, resources } = await io.writeJSON(document)
    const file = (name: string) => resources[name] ?? null
    expect(await read('b.gltf', utf8(JSON.stringify(json)), { file })).toEqual(mesh)
    expect(await fault('b.gltf', utf8(JSON.stringify(json)))).toMatchObject({
      words: expect.stringContaining('not beside it'),
    })
  })

  test('nodes are applied: scaled by 2, mirrored and moved, the block is eight times as large and faces outward', async () => {
    const bytes = await glb(
      await blockGltf((document) => {
        document.getRoot().listNodes()[0]!.setScale([-2, 2, 2]).setTranslation([10, 0, 0])
      }),
    )
    const mesh = await read('b.glb', bytes)
    expect(volumeOf(mesh)).toBeCloseTo(240, 3)
    expect(boxOf(mesh)).toEqual({ min: [6, 0, 0], max: [10, 6, 10] })
    expect(turnedFrom(mesh, facesOf(mesh))).toBeLessThan(1e-6)
  })

  // glTF 2.0, 3.7.2.1: "When normals are not specified, client implementations MUST calculate flat normals".
  test('without normals every face is flat', async () => {
    const document = await blockGltf((made) => {
      const [primitive] = made.getRoot().listMeshes()[0]!.listPrimitives()
      const { positions, triangles } = round
      primitive!.getAttribute('POSITION')!.setArray(positions)
      primitive!.getIndices()!.setArray(triangles)
      primitive!.setAttribute('NORMAL', null).setAttribute('TEXCOORD_0', null)
    })
    const mesh = await read('r.glb', await glb(document))
    expect(mesh.notes).toEqual(['Normals were made: those of the faces.'])
    expect(turnedFrom(mesh, facesOf(mesh))).toBeLessThan(1e-6)
  })

  test.each([
    ['Draco', async (document: Document) => document.transform(draco({ quantizePosition: 14 }))],
    ['meshopt', async (document: Document) => document.transform(meshopt({ encoder: MeshoptEncoder }))],
    ['quantised', async (document: Document) => document.transform(quantize())],
  ])('%s comes to the same block within its steps', async (_, compress) => {
    const document = await blockGltf()
    await compress(document)
    const mesh = await read('b.glb', await glb(document))
    expect(volumeOf(mesh)).toBeCloseTo(30, 1)
    expect(areaOf(mesh)).toBeCloseTo(62, 1)
    const uvs = mesh.uvSets[0]!
    expect([Math.min(...uvs), Math.max(...uvs)].map((v) => Math.round(v * 100))).toEqual([0, 100])
  })

  test('a texture transform moves the UVs as its extension says, worked by hand', async () => {
    const bytes = await glb(
      await blockGltf((document) => {
        const transform = document.createExtension(KHRTextureTransform).createTransform()
        transform
          .setOffset([0.5, 0.25])
          .setRotation(Math.PI / 2)
          .setScale([0.5, 2])
        const [material] = document.getRoot().listMaterials()
        const texture = document
          .createTexture('t')
          .setImage(new Uint8Array([1, 2, 3]))
          .setMimeType('image/png')
        material!.setBaseColorTexture(texture)
        material!.getBaseColorTextureInfo()!.setExtension('KHR_texture_transform', transform)
      }),
    )
    const { mesh, textures } = await readMesh('b.glb', bytes, host)
    const before = (await block()).uvSets[0]!
    // A quarter turn: (u, v) goes to (0.5 + 2v, 0.25 − 0.5u).
    for (let i = 0; i < before.length; i += 2) {
      expect(mesh.uvSets[0]![i]).toBeCloseTo(0.5 + 2 * before[i + 1]!, 5)
      expect(mesh.uvSets[0]![i + 1]).toBeCloseTo(0.25 - 0.5 * before[i]!, 5)
    }
    expect(textures).toEqual([
      { material: 'steel', slot: 'baseColorTexture', mime: 'image/png', bytes: new Uint8Array([1, 2, 3]) },
    ])
  })

  test.each([
    [Primitive.Mode['TRIANGLE_STRIP']!, [0, 1, 3, 2]],
    [Primitive.Mode['TRIANGLE_FAN']!, [0, 1, 2, 3]],
  ])('mode %i is written out as triangles that face the same way', async (mode, order) => {
    const document = new GltfDocument()
    const buffer = document.createBuffer()
    const square = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]
    const points = document.createAccessor().setArray(new Float32Array(square)).setType('VEC3').setBuffer(buffer)
    const indices = document.createAccessor().setArray(new Uint32Array(order)).setType('SCALAR').setBuffer(buffer)
    const primitive = document.createPrimitive().setMode(mode).setAttribute('POSITION', points).setIndices(indices)
    document.createScene().addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)))
    const mesh = await read('s.glb', await glb(document))
    expect(areaOf(mesh)).toBeCloseTo(1, 6)
    for (let v = 0; v < 4; v++) expect([...mesh.normals.subarray(v * 3, v * 3 + 3)]).toEqual([0, 0, 1])
  })
})

test('3000 damaged files: a typed error or a sound mesh, never anything else', async () => {
  const ply = 'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n'
  const samples: [string, Uint8Array][] = [
    ['a.obj', utf8(blockObj(1, 1, 1))],
    ['a.glb', await glb(await blockGltf())],
    [
      'a.ply',
      utf8(`${ply}element face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n`),
    ],
    ['a.stl', utf8('solid a\nfacet normal 0 0 1\nvertex 0 0 7\nvertex 1 0 7\nvertex 0 2 7\nendfacet\nendsolid\n')],
  ]
  const random = randomNumbers(16)
  let sound = 0
  for (let run = 0; run < 3000; run++) {
    const [name, bytes] = samples[run % samples.length]!
    const damaged = bytes.slice(0, random() < 0.2 ? Math.floor(random() * bytes.length) : bytes.length)
    for (let n = Math.floor(random() * 6); n >= 0; n--)
      damaged[Math.floor(random() * damaged.length)] = Math.floor(random() * 256)
    try {
      const mesh = await read(name, damaged)
      sound++
      expect(mesh.triangles.every((v) => v * 3 + 2 < mesh.positions.length)).toBe(true)
      expect(mesh.normals.every(Number.isFinite)).toBe(true)
    } catch (error) {
      if (!(error instanceof GristError)) throw new Error(`run ${run}, ${name}: ${String(error)}`, { cause: error })
    }
  }
  expect(sound).toBeGreaterThan(100)
}, 120_000)
