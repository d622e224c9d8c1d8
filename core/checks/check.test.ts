import type { Field } from '../field/field'
import { uniformField } from '../field/field'
import { CHANNELS } from '../document/channels'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { fieldOf } from '../testing/fields'
import type { CheckSubject } from './subject'
import { checkReport, runChecks } from './check'
import { checks } from './rules/rules.generated'
import type { RecordFile } from '../texture/record'
import { texelsWhere } from './texels-where'

const channels = new Map(CHANNELS.map((channel) => [channel.id, channel]))

describe('the check', () => {
  const n = 32
  const wave = (x: number, y: number) => 0.5 + 0.3 * Math.sin((2 * Math.PI * (x + y)) / n)
  const subject = (channel: string, field: Field, more: Partial<CheckSubject> = {}): CheckSubject => ({
    width: field.width,
    height: field.height,
    channels: [{ channel: channels.get(channel)!, field, steps: 0 }],
    files: [],
    ...more,
  })
  const rules = (s: CheckSubject) => runChecks(checks, s).map(({ rule, severity }) => `${severity} ${rule}`)
  const file = (channel: string, transfer: 'srgb' | 'raw', marked: boolean | null) => ({
    marked,
    record: {
      name: 'a.png',
      map: 'a',
      format: 'png',
      bits: 8,
      transfer,
      slots: [{ channel, component: 0, inverted: false, constant: null, min: 0, max: 1 }],
      bytes: 1,
      sha256: '',
    },
  })

  test('a sound channel has no findings', () => {
    expect(rules(subject('height', fieldOf('grey', n, n, wave)))).toEqual([])
  })
  test('tile borders: a ramp breaks off left and right only', () => {
    const found = runChecks(
      checks,
      subject(
        'height',
        fieldOf('grey', n, n, (x) => x / n),
      ),
    )
    expect(found.map(({ rule, marks }) => [rule, marks![2]])).toEqual([['tile-borders', [0, 0.5]]])
    expect(found[0]!.value).toBeCloseTo(n - 1, 0)
    // Three planes of a colour, and what is made from a height, are one fault.
    const ramp = fieldOf('colour', n, n, (x) => 0.2 + (0.5 * x) / n)
    const both = { ...subject('colour', ramp), channels: [] as CheckSubject['channels'] }
    both.channels = [
      ...subject('colour', ramp).channels,
      ...subject(
        'roughness',
        fieldOf('grey', n, n, (x) => 0.2 + (0.6 * x) / n),
      ).channels,
    ]
    const borders = runChecks(checks, both).filter(({ rule }) => rule === 'tile-borders')
    expect(borders.map(({ channel, message }) => [channel, message.includes('Nor do roughness.')])).toEqual([
      ['colour', true],
    ])
  })
  test('normals: a short one, and one that faces inward', () => {
    const good = fieldOf('normal', n, n, (x, y, p) =>
      p === 2
        ? 0.8
        : p === 0
          ? 0.6 * Math.cos((2 * Math.PI * (x + y)) / n)
          : 0.6 * Math.sin((2 * Math.PI * (x + y)) / n),
    )
    expect(rules(subject('normal', good))).toEqual([])
    good.planes[2]![40] = 0.2
    expect(rules(subject('normal', good))).toContain('error normals')
    good.planes[2]![40] = -0.8
    expect(runChecks(checks, subject('normal', good)).find(({ rule }) => rule === 'normals')!.marks).toEqual([
      [8.5 / n, 1.5 / n],
    ])
    // On a part a high mesh may turn away; what is not of length 1 is wrong there too.
    expect(rules(subject('normal', good, { over: 'part' }))).toEqual(['warning normals'])
    good.planes[2]![41] = 0.2
    expect(rules(subject('normal', good, { over: 'part' }))).toEqual(['error normals', 'warning normals'])
  })
  test('a constant channel, values outside the range', () => {
    const one = (value: number) => subject('metallic', uniformField('grey', n, n, [value]))
    expect(rules(one(0.1))).toEqual(['warning constant-channels'])
    // Nobody touched it: that is what every material has.
    expect(rules(one(0))).toEqual([])
    // A file that holds nothing else is memory for nothing, also where nobody touched it.
    const whole = { ...one(0), files: [file('metallic', 'raw', false)] }
    expect(runChecks(checks, whole).map((found) => [found.rule, found.file])).toEqual([['constant-channels', 'a.png']])
    // A slot beside others that are not constant costs nothing.
    const beside = {
      ...whole,
      channels: [...whole.channels, ...subject('roughness', fieldOf('grey', n, n, wave)).channels],
      files: whole.files.map((one) => ({
        ...one,
        record: { ...one.record, slots: [...one.record.slots, { ...one.record.slots[0]!, channel: 'roughness' }] },
      })),
    }
    expect(rules(beside)).toEqual([])
    expect(
      rules(
        subject(
          'height',
          fieldOf('grey', n, n, (x, y) => wave(x, y) * 1.4),
        ),
      ),
    ).toEqual(['warning values-outside'])
  })
  test.each([
    [64, 64, []],
    [48, 48, ['warning size']],
    [50, 50, ['error size']],
  ])('size %s × %s', (width, height, expected) => {
    const field = fieldOf(
      'grey',
      width,
      height,
      (x, y) => 0.5 + 0.3 * Math.sin((2 * Math.PI * x) / width) * Math.sin((2 * Math.PI * y) / height),
    )
    expect(rules(subject('height', field))).toEqual(expected)
  })
  test('transfer: colour marked raw, data marked sRGB, both as they should be', () => {
    const colour = fieldOf('colour', n, n, wave)
    const grey = fieldOf('grey', n, n, wave)
    expect(rules(subject('colour', colour, { files: [file('colour', 'srgb', true)] }))).toEqual([])
    expect(rules(subject('colour', colour, { files: [file('colour', 'raw', false)] }))).toEqual(['error transfer'])
    expect(rules(subject('height', grey, { files: [file('height', 'raw', true)] }))).toEqual(['error transfer'])
    expect(rules(subject('height', grey, { files: [file('height', 'raw', false)] }))).toEqual([])
  })
  test('plausible colour: what no surface has, metals apart; black; half metal; a mirror', () => {
    const colours = (value: (x: number, y: number) => number) => fieldOf('colour', n, n, value)
    const pair = (colour: Field, metallic: Field): CheckSubject => ({
      ...subject('colour', colour),
      channels: [
        { channel: channels.get('colour')!, field: colour, steps: 0 },
        { channel: channels.get('metallic')!, field: metallic, steps: 0 },
      ],
    })
    const metal = fieldOf('grey', n, n, (x, y) => (Math.sin((2 * Math.PI * (x + y)) / n) > 0 ? 1 : 0))
    const of = (s: CheckSubject) =>
      runChecks(checks, s).map(({ rule, message }) => `${rule} ${/\(.*\)/.exec(message)?.[0] ?? ''}`)
    // Linear 0.2 is sRGB 124: right for stone, too dark for metal. 0.8 is 231, right for both.
    expect(
      of(
        pair(
          colours((x, y) => 0.15 + wave(x, y) / 10),
          metal,
        ),
      ).filter((one) => one.startsWith('plaus')),
    ).toEqual(['plausible-colour (sRGB under 180)'])
    expect(
      of(
        pair(
          colours((x, y) => 0.6 + wave(x, y) / 10),
          metal,
        ),
      ).filter((one) => one.startsWith('plaus')),
    ).toEqual([])
    expect(
      rules(
        subject(
          'colour',
          colours((x, y) => (wave(x, y) > 0.7 ? 0 : 0.3)),
        ),
      ),
    ).toEqual(['warning plausible-colour', 'warning pure-black'])
    expect(
      rules(
        subject(
          'colour',
          colours((x, y) => 0.9 + wave(x, y) / 10),
        ),
      ),
    ).toEqual(['warning plausible-colour'])
    expect(rules(subject('metallic', fieldOf('grey', n, n, wave)))).toEqual(['warning half-metal'])
    expect(
      rules(
        subject(
          'roughness',
          fieldOf('grey', n, n, (x, y) => wave(x, y) / 60),
        ),
      ),
    ).toEqual(['warning mirror-roughness'])
  })

  test('the direction of green: as inside, and flipped', async () => {
    const document = documentOf({
      nodes: {
        noise: { type: 'noise', params: { cells: [4, 4], octaves: 2 } },
        slopes: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'noise.grey' } },
        flipped: { type: 'adjust-normal', params: { flipGreen: true }, inputs: { source: 'slopes.normal' } },
      },
    })
    const { fields } = await evaluateOutputs(document, ['slopes.normal', 'flipped.normal'], 64)
    expect(rules(subject('normal', fields.get('slopes.normal')!))).toEqual([])
    expect(rules(subject('normal', fields.get('flipped.normal')!))).toEqual(['error normal-direction'])
    // Rounding to 8 bits does not hide it.
    const rounded = (field: Field): Field => ({
      ...field,
      planes: field.planes.map((plane) => plane.map((v) => Math.round(v * 127.5 + 127.5) / 127.5 - 1)),
    })
    expect(rules(subject('normal', rounded(fields.get('slopes.normal')!)))).toEqual([])
    expect(rules(subject('normal', rounded(fields.get('flipped.normal')!)))).toEqual(['error normal-direction'])
  })

  test('two channels alike, and a height of 8 bits that is too smooth for them', () => {
    const field = fieldOf('grey', n, n, wave)
    const two: CheckSubject = {
      ...subject('height', field),
      channels: ['height', 'roughness'].map((id) => ({ channel: channels.get(id)!, field, steps: 0 })),
    }
    expect(rules(two)).toEqual(['warning duplicate-channels'])
    const m = 512
    const soft = fieldOf(
      'grey',
      m,
      m,
      (x, y) => Math.round(255 * (0.5 + 0.2 * Math.sin((2 * Math.PI * (x + y)) / m))) / 255,
    )
    const steps = (given: number) =>
      rules({ ...subject('height', soft), channels: [{ channel: channels.get('height')!, field: soft, steps: given }] })
    expect(steps(255)).toEqual(['warning height-steps'])
    expect(steps(65535)).toEqual([])
  })

  test('a repeat within the tile is found where it lies; one large patch is none', () => {
    const blob = (x: number, y: number, cx: number, cy: number) => Math.exp(-((x - cx) ** 2 + (y - cy) ** 2) / 40)
    const twice = fieldOf('colour', 96, 96, (x, y) => 0.2 + 0.4 * (blob(x, y, 20, 30) + blob(x, y, 68, 54)))
    const [found] = runChecks(checks, subject('colour', twice)).filter(({ rule }) => rule === 'repeat')
    // Two of a kind whose way to each other is not the way back are alike by one half only.
    expect(found).toBeUndefined()
    const pattern = fieldOf('colour', 96, 96, (x, y) => 0.2 + 0.4 * (blob(x, y, 20, 30) + blob(x, y, 68, 30)))
    const [here, there] = runChecks(checks, subject('colour', pattern)).find(({ rule }) => rule === 'repeat')!.marks!
    // The two marks lie on the two blobs: at 20 and 68 of 96 across, 30 down (within a cell of 1/48).
    expect(Math.abs(Math.min(here![0], there![0]) - 20.5 / 96)).toBeLessThan(1 / 48)
    expect(Math.abs(here![0] - there![0])).toBeCloseTo(0.5)
    for (const mark of [here!, there!]) expect(Math.abs(mark[1] - 30.5 / 96)).toBeLessThan(1 / 48)
    const patch = fieldOf(
      'colour',
      96,
      96,
      (x, y) => 0.4 + 0.2 * Math.cos((2 * Math.PI * x) / 96) + 0.05 * Math.cos((2 * Math.PI * y) / 96),
    )
    expect(runChecks(checks, subject('colour', patch)).some(({ rule }) => rule === 'repeat')).toBe(false)
    // A ramp is alike along the axis on which nothing changes; that is no repeat.
    for (const ramp of [
      (x: number) => 0.2 + (0.5 * x) / 96,
      (_: number, y: number) => 0.2 + 0.3 * Math.abs(y / 48 - 1),
    ])
      expect(
        runChecks(checks, subject('colour', fieldOf('colour', 96, 96, ramp))).some(({ rule }) => rule === 'repeat'),
      ).toBe(false)
    // Stripes are one.
    const stripes = fieldOf('colour', 96, 96, (x) => 0.4 + 0.2 * Math.sin((2 * Math.PI * x) / 24))
    expect(runChecks(checks, subject('colour', stripes)).some(({ rule }) => rule === 'repeat')).toBe(true)
  })

  test('every rule names its source', () => {
    for (const rule of checks) expect(rule.reference.length).toBeGreaterThan(10)
  })
})

describe('findings', () => {
  const n = 64
  const grey = (value: (x: number, y: number) => number): Field => fieldOf('grey', n, n, value)
  const wave = grey((x, y) => 0.5 + 0.3 * Math.sin((2 * Math.PI * (x + 2 * y)) / n))
  const colours = fieldOf('colour', n, n, (x, y) => 0.3 + 0.1 * Math.sin((2 * Math.PI * (x + y)) / n))
  const file = (
    map: string,
    ids: (string | null)[],
    more: Partial<RecordFile> = {},
  ): { record: RecordFile; marked: null } => ({
    marked: null,
    record: {
      name: `${map}.png`,
      map,
      format: 'png',
      bits: 8,
      transfer: ids[0] === 'colour' ? 'srgb' : 'raw',
      slots: ids.map((channel) => ({
        channel,
        component: 0,
        inverted: false,
        constant: channel ? null : 1,
        min: 0,
        max: 1,
      })),
      bytes: 0,
      sha256: '',
      ...more,
    },
  })
  const subject = (given: Record<string, Field>, more: Partial<CheckSubject> = {}): CheckSubject => ({
    width: n,
    height: n,
    channels: Object.entries(given).map(([id, field]) => ({ channel: channels.get(id)!, field, steps: 0 })),
    files: [],
    ...more,
  })
  const found = (s: CheckSubject): string[] => runChecks(checks, s).map(({ rule }) => rule)

  test('marks lie where what is meant is: every one within a cell of it, the fullest first', () => {
    const at = (x: number, y: number): boolean => (x - 50) ** 2 + (y - 10) ** 2 < 9 || (x === 5 && y === 60)
    const { ratio, marks } = texelsWhere(wave, at)
    let count = 0
    for (let y = 0; y < n; y++) for (let x = 0; x < n; x++) if (at(x, y)) count++
    expect(ratio).toBe(count / (n * n))
    expect(marks.at(-1)).toEqual([5.5 / n, 60.5 / n])
    for (const [u, v] of marks.slice(0, -1)) expect(Math.hypot(u * n - 50.5, v * n - 10.5)).toBeLessThan(3)
    expect(texelsWhere(wave, () => true).marks.length).toBeLessThanOrEqual(12)
    expect(texelsWhere(wave, () => false)).toEqual({ ratio: 0, marks: [] })
  })

  test('opacity that no file holds; emission without strength; data in a lossy format', () => {
    const holes = grey((x, y) => (x > 20 && x < 30 && y > 20 && y < 30 ? 0 : 1))
    const all = subject({ colour: colours, opacity: holes })
    expect(found({ ...all, files: [file('c', ['colour', 'colour', 'colour'])] })).toContain('alpha-dropped')
    expect(found({ ...all, files: [file('c', ['colour', 'colour', 'colour', 'opacity'])] })).not.toContain(
      'alpha-dropped',
    )
    // Without files nothing is known of where it goes.
    expect(found(all)).not.toContain('alpha-dropped')

    const lamp = fieldOf('colour', n, n, (x) => (x < 9 ? 0.5 : 0))
    expect(found(subject({ emission: lamp }, { emissionStrength: 0 }))).toContain('emission-strength')
    expect(found(subject({ emission: lamp }, { emissionStrength: 2 }))).not.toContain('emission-strength')

    const jpeg = (id: string) => file('j', [id], { format: 'jpg' })
    expect(found(subject({ roughness: wave }, { files: [jpeg('roughness')] }))).toContain('lossy-data')
    expect(found(subject({ colour: colours }, { files: [jpeg('colour')] }))).not.toContain('lossy-data')
  })

  test('what went out of range is told by the fields before, and by the record alone', () => {
    const clamped = { ...wave, planes: [wave.planes[0]!.map((v) => Math.min(1, v))] }
    const beyond = grey((x, y) => (x === 3 && y === 4 ? 1.5 : 0.4 + 0.1 * Math.sin((2 * Math.PI * x) / n)))
    const [first] = runChecks(
      checks,
      subject({ roughness: clamped }, { before: new Map([['roughness', beyond]]) }),
    ).filter(({ rule }) => rule === 'values-outside')
    expect(first!.marks).toEqual([[3.5 / n, 4.5 / n]])
    const record = file('r', ['roughness'])
    record.record.slots[0] = { ...record.record.slots[0]!, max: 1.5 }
    const [second] = runChecks(checks, subject({ roughness: clamped }, { files: [record] })).filter(
      ({ rule }) => rule === 'values-outside',
    )
    expect(second).toMatchObject({ file: 'r.png', value: 0.5 })
    Object.assign(record.record, { format: 'exr', bits: 16 })
    expect(found(subject({ roughness: clamped }, { files: [record] }))).not.toContain('values-outside')
  })

  test('memory over 128 MB in blocks: one file of 8192² in BC7 is 89.5 MB, two are too much', () => {
    const files = [file('a', ['colour', 'colour', 'colour']), file('b', ['colour', 'colour', 'colour'])]
    const large = { width: 8192, height: 8192 }
    expect(found(subject({ colour: colours }, { ...large, files: files.slice(0, 1) }))).not.toContain('engine-memory')
    const [finding] = runChecks(checks, subject({ colour: colours }, { ...large, files })).filter(
      ({ rule }) => rule === 'engine-memory',
    )
    // 16 bytes for 16 texels, and a third more for mips.
    expect(finding!.value / (2 * 8192 * 8192)).toBeCloseTo(4 / 3, 3)
  })

  test('the report: errors first, then warnings, then what is well with what was measured', async () => {
    const broken = grey((x) => x / n)
    const found = subject({ height: broken, metallic: uniformField('grey', n, n, [0.1]) })
    const report = await checkReport(checks, found, async () => {})
    expect(report.map(({ name }) => name).slice(0, 2)).toEqual(['tile-borders', 'constant-channels'])
    expect(report).toHaveLength(checks.filter(({ ofParts, ofSets }) => !ofParts && !ofSets).length)
    expect(report.slice(2).every(({ findings }) => findings.length === 0)).toBe(true)
    expect(report.find(({ name }) => name === 'size')!.measured).toBe('64 × 64, a power of two')
    expect(report.find(({ name }) => name === 'half-metal')!.measured).toBe('in 100.0 % of the texels')
    expect(report[0]!.measured).toBeNull()
    // It can be given up after each rule.
    let rules = 0
    const gone = checkReport(checks, found, async () => {
      if (++rules === 3) throw new Error('enough')
    })
    await expect(gone).rejects.toThrow('enough')
    expect(rules).toBe(3)
  })
})
