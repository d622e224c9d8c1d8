import { readdirSync, rmSync } from 'node:fs'
import sharp from 'sharp'
import { materialFile, workFolder } from './testing/work-folder'

const { folder, at, grist, write } = workFolder()
afterAll(() => rmSync(folder, { recursive: true }))

test('normals go between a surface and the space of its model with --mesh, and the set comes back as it was', async () => {
  // A roof of two quads whose corners share their normals, so that frames turn and shorten between them.
  const corners = [-1, 0, 1].flatMap((x) =>
    [1, -1].map((z) => `v ${x} ${x === 0 ? 0.7 : 0} ${z}\nvt ${(x + 1) / 2} ${(1 - z) / 2}`),
  )
  write('roof.obj', `${corners.join('\n')}\no roof\nf 1/1 3/3 4/4 2/2\nf 3/3 5/5 6/6 4/4\n`)
  const bumpy = materialFile({
    domain: { kind: 'part' },
    nodes: {
      n: { type: 'noise', params: { cells: [4, 4] } },
      s: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'n.grey' } },
    },
    layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { normal: { source: { node: 's.normal' } } } }],
  })
  write('bumpy.json', bumpy)
  const on = ['--mesh', 'roof.obj', '--size', '64', '--quiet']
  const maps = (packing: string, out: string) => grist('bake', 'bumpy.json', '--packing', packing, '--out', out, ...on)
  expect(await maps('object-normals', 'object')).toMatchObject({ code: 0, err: '' })
  expect(await maps('occlusion-rough-metal-y-up', 'tangent')).toMatchObject({ code: 0, err: '' })
  rmSync(at('object/record.json'))
  expect((await grist('convert', 'object', '--out', 'x')).err).toContain('normals in the space of a model')
  const back = await grist('convert', 'object', '--out', 'back', ...on)
  expect(back).toMatchObject({ code: 0, err: '' })
  const again = await grist('convert', 'back', '--packing', 'object-normals', '--out', 'again', ...on)
  expect(again).toMatchObject({ code: 0, err: '' })
  const texels = async (folder: string, map: string): Promise<Buffer> => {
    const file = readdirSync(at(folder)).find((name) => name.endsWith(`_${map}.png`))!
    return sharp(at(`${folder}/${file}`))
      .raw()
      .toBuffer()
  }
  for (const [map, before, after] of [
    ['normal', 'tangent', 'back'],
    ['object-normal', 'object', 'again'],
  ] as const) {
    const [was, is] = [await texels(before, map), await texels(after, map)]
    expect(Math.max(...was.map((v, i) => Math.abs(v - is[i]!)))).toBeLessThanOrEqual(2)
  }
  // What faces left on the left side of the roof faces right on the right one.
  const object = await texels('object', 'object-normal')
  const mean = (from: number, to: number) => {
    const row = Array.from({ length: to - from }, (_, x) => object[(32 * 64 + from + x) * 3]!)
    return row.reduce((sum, v) => sum + v, 0) / row.length
  }
  expect(mean(0, 20)).toBeLessThan(110)
  expect(mean(44, 64)).toBeGreaterThan(146)
}, 120_000)
