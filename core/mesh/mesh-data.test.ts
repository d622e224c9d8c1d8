import { readFileSync } from 'node:fs'
import { createField } from '../field/field'
import { QUALITIES, STANDARD_SETTINGS, bakeSettings, optionsFor, qualityOf } from './bake-settings'
import type { BakeSettings } from './bake-settings'
import { bakers } from './bakers/bakers.generated'
import { bakedTogether, bakerNamed, kindsFor, meshDataKey, tilePlace, tilesOf } from './mesh-data'
import { bakedAs, meshDataRecord, settingsOfBaked } from './mesh-data-record'
import { meshDataBytes, meshDataField, meshDataPicture, meshDataShape } from './mesh-data-raster'
import { meshOf } from './testing/bake-here'
import { blockObj } from './testing/shapes'

const block = meshOf(blockObj(1, 2, 3))
const contents = { mesh: 'a', high: 'b', cage: null }
const keyOf = (
  kind: string,
  change: Partial<BakeSettings> = {},
  of = contents as { mesh: string; high: string | null; cage: string | null },
) => {
  const settings = { ...STANDARD_SETTINGS, ...change }
  return meshDataKey(of, { part: 0, kind, udim: 1001 }, settings, optionsFor(settings, block))
}

test('a key changes with what the bits depend on, and with nothing else', () => {
  expect(keyOf('occlusion')).toBe(keyOf('occlusion'))
  // Rays are no matter for curvature, nor the radius for occlusion; size is for both.
  expect(keyOf('curvature', { rays: 9 })).toBe(keyOf('curvature'))
  expect(keyOf('occlusion', { rays: 9 })).not.toBe(keyOf('occlusion'))
  expect(keyOf('occlusion', { radius: 0.5 })).toBe(keyOf('occlusion'))
  expect(keyOf('curvature', { radius: 0.5 })).not.toBe(keyOf('curvature'))
  for (const kind of ['occlusion', 'position', 'part-id']) {
    expect(keyOf(kind, { size: 512 })).not.toBe(keyOf(kind))
    expect(keyOf(kind, {}, { ...contents, mesh: 'other' })).not.toBe(keyOf(kind))
  }
  // Another high twin is no matter for what is of the part alone.
  expect(keyOf('position', {}, { ...contents, high: 'other' })).toBe(keyOf('position'))
  expect(keyOf('normal', {}, { ...contents, high: 'other' })).not.toBe(keyOf('normal'))
  expect(keyOf('normal', {}, { ...contents, cage: 'c' })).not.toBe(keyOf('normal'))
  expect(keyOf('transfer', { transferImage: '0'.repeat(64) })).not.toBe(keyOf('transfer'))
})

test('how kinds were baked gives settings that make the same keys, as few as can be', () => {
  const made = { ...STANDARD_SETTINGS, size: 512, samples: 1, rays: 9, radius: 0.5, leakLength: 0.25 } as const
  const as = (kind: string, settings: BakeSettings) =>
    bakedAs(
      meshDataRecord({
        ...{ application: '', model: '', part: '', place: { part: 0, kind, udim: 1001 }, contents, sha256: '' },
        ...{ settings, options: optionsFor(settings, block), missed: 0, kind: bakerNamed(kind) },
      }),
    )
  const kinds = bakers.filter(({ needsTexture }) => !needsTexture).map(({ name }) => name)
  const [one, ...others] = settingsOfBaked(Object.fromEntries(kinds.map((kind) => [kind, as(kind, made)])))
  expect([one!.kinds, others]).toEqual([kinds, []])
  for (const kind of kinds) expect(keyOf(kind, one!.settings)).toBe(keyOf(kind, made))
  // Occlusion was baked anew with more rays: it is by itself.
  const two = settingsOfBaked({
    normal: as('normal', made),
    occlusion: as('occlusion', { ...made, rays: 64 }),
    thickness: as('thickness', made),
  })
  expect(two.map((group) => [group.settings.rays, group.kinds])).toEqual([
    [64, ['normal', 'occlusion']],
    [9, ['thickness']],
  ])
  expect(() => settingsOfBaked({ normal: { size: 100 } })).toThrow(expect.objectContaining({ code: 'record-invalid' }))
})

test('every option that a kind reads is named by it', () => {
  // By the text of its file and of what it calls: a name that is read but not told would leave old bits fresh.
  const source = (path: string) => readFileSync(`${import.meta.dirname}/${path}.ts`, 'utf8')
  const helpers: Record<string, string> = {
    openness: source('openness'),
    lookAround: source('around'),
    highHits: source('high'),
    highNormals: source('high'),
    seenSamples: source('high'),
  }
  const names = Object.keys(optionsFor(STANDARD_SETTINGS, block))
  for (const baker of bakers) {
    const own = source(`bakers/${baker.name}`)
    const body = own.slice(own.indexOf('  bake:'))
    const reached = [
      body,
      ...Object.entries(helpers).flatMap(([name, text]) => (body.includes(`${name}(`) ? [text] : [])),
    ]
    const text = [...reached, ...(reached.join('').includes('seenSamples(') ? [helpers.highHits!] : [])].join('\n')
    for (const name of names)
      if (new RegExp(`\\b${name}\\b`).test(text.replaceAll(/^ *(?:\/\/|\*|\/\*).*$/gm, '')))
        expect([baker.name, baker.uses.includes(name as never) || !readsOption(text, name)]).toEqual([baker.name, true])
  }
  function readsOption(text: string, name: string): boolean {
    return new RegExp(
      `options(?:: \\{[^}]*\\b|\\.)${name}\\b|\\{[^}]*\\b${name}\\b[^}]*\\} = (?:context\\.)?options`,
    ).test(text)
  }
})

test('kinds that read the same are made together; each is made once, what takes no rays first', () => {
  const groups = bakedTogether(bakers, { rayStep: 1 })
  expect(bakedTogether(bakers, { rayStep: 4 })).toEqual([bakers])
  expect(
    groups
      .flat()
      .map(({ name }) => name)
      .sort(),
  ).toEqual(bakers.map(({ name }) => name).sort())
  const group = (name: string) => groups.findIndex((one) => one.some((kind) => kind.name === name))
  expect([group('position'), group('part-id')]).toEqual([0, 0])
  expect(group('occlusion')).toBe(group('bent-normal'))
  expect(group('curvature')).toBe(group('rounded-edge'))
  expect(group('occlusion')).not.toBe(group('curvature'))
})

test('kinds are offered where what they are made of is there; orders are told apart', () => {
  const names = (of: Parameters<typeof kindsFor>[0]) => kindsFor(of).map(({ name }) => name)
  expect(names({ high: false, colours: false, texture: false })).not.toEqual(expect.arrayContaining(['height']))
  expect(names({ high: true, colours: true, texture: true })).toEqual(bakers.map(({ name }) => name))
  expect(new Set(bakers.map(({ order }) => order)).size).toBe(bakers.length)
})

test('tiles: UDIM numbers lead to places, and repeats leave the first alone', () => {
  expect(tilePlace(1001)).toEqual({ left: 0, top: -0 })
  expect(tilePlace(1012)).toEqual({ left: 1, top: -1 })
  expect(tilesOf([1001, 1002], { outside: 'tiles' })).toEqual([1001, 1002])
  expect(tilesOf([1001, 1002], { outside: 'repeats' })).toEqual([1001])
  expect(tilesOf([], { outside: 'tiles' })).toEqual([1001])
})

test('settings: lengths of null are what the model gives; unknown ones are refused; qualities have names', () => {
  const options = optionsFor({ ...STANDARD_SETTINGS, radius: 0.25 }, block)
  expect([options.radius, options.reach]).toEqual([0.25, expect.closeTo(Math.sqrt(14) / 4, 6)])
  expect(bakeSettings.safeParse({ ...STANDARD_SETTINGS, size: 1000 }).success).toBe(false)
  expect(bakeSettings.safeParse({ ...STANDARD_SETTINGS, samples: 3 }).success).toBe(false)
  expect([qualityOf(QUALITIES.draft), qualityOf({ ...QUALITIES.draft, rayStep: 1 })]).toEqual(['draft', null])
})

test.each(['occlusion', 'normal', 'position', 'part-id', 'curvature', 'vertex-colour'])(
  '%s is kept and read again',
  (name) => {
    const baker = bakerNamed(name)
    const type = baker.type === 'id' ? 'grey' : baker.type === 'vector' ? 'colour' : baker.type
    const field = createField(type, 5, 3)
    field.planes.forEach((plane, p) =>
      plane.forEach(
        (_, i) => (plane[i] = baker.type === 'id' ? i : baker.type === 'normal' ? [0.6, 0, 0.8][p]! : (i + p) / 20),
      ),
    )
    const shape = meshDataShape(baker, 5, 3)
    const bytes = meshDataBytes(baker, field)
    expect(bytes.length).toBe(15 * shape.channels * (shape.bits / 8))
    const again = meshDataField(baker, shape, bytes)
    again.planes.forEach((plane, p) =>
      plane.forEach((v, i) => expect(Math.abs(v - field.planes[p]![i]!)).toBeLessThan(shape.float ? 1e-9 : 2 / 65535)),
    )
    // Once more gives the same bytes: what is kept is exact.
    expect(meshDataBytes(baker, again)).toEqual(bytes)
    const picture = meshDataPicture(baker, field, {
      options: optionsFor(STANDARD_SETTINGS, block),
      box: { min: [0, 0, 0], max: [1, 1, 1] },
    })
    expect(picture).toHaveLength(45)
    if (name === 'normal') expect([...picture.subarray(0, 3)]).toEqual([204, 128, 230])
  },
)
