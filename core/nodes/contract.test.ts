import { readFileSync } from 'node:fs'
import { GristError } from '../errors'
import type { Field } from '../field/field'
import { createField, planeCount, rowStart } from '../field/field'
import { allRows } from '../kernels/rows'
import { checkParameters } from '../graph/graph'
import { imageKey, makePyramid } from '../field/pyramid'
import { bitsOf, evaluateExample, exampleHash } from '../testing/examples'
import { openThreads } from '#runtime/node/threads'
import { hashBytes } from '../hash'
import { EXAMPLE_PART } from '../graph/example-part'
import { exampleImage } from '../graph/example-document'
import { registry } from './registry.generated'

// Large rasters go to worker threads: a thread runs at full speed, Jest's own context does not.
const threads = openThreads(2)
afterAll(() => threads.close())

/** A hash of some rows of a plane. */
const rowHash = (plane: Float32Array | Uint32Array, from: number, to: number): string =>
  hashBytes(new Uint8Array(plane.buffer, plane.byteOffset + 4 * from, 4 * (to - from)))

const stored = JSON.parse(readFileSync('core/nodes/example-hashes.json', 'utf8')) as Record<
  string,
  { version: number; sha256: string }
>

const eachPlane = (field: Field): readonly (Float32Array | Uint32Array)[] => (field.ids ? [field.ids] : field.planes)

/** Runs a node on given input fields, past the graph. */
function runOn(type: string, inputs: Record<string, Field | null>, params: Record<string, unknown>, width: number) {
  const node = registry.get(type)!
  const checked = checkParameters(node, params)
  const kind = Object.values(inputs).find((field, i) => field && Object.values(node.inputs)[i]?.type === 'any')?.type
  const outputs = Object.fromEntries(
    Object.entries(node.outputs).map(([name, port]) => {
      const field = createField(port.type === 'any' ? (kind ?? 'grey') : port.type, width, width)
      for (const plane of eachPlane(field)) plane.fill(12345)
      return [name, field]
    }),
  )
  const images = new Map(
    (node.images?.(checked as never, Object.keys(node.outputs), { part: EXAMPLE_PART }) ?? []).map((request) => [
      imageKey(request),
      makePyramid(exampleImage(node, request.image), request),
    ]),
  )
  const context = {
    rows: allRows(width),
    width,
    height: width,
    tileTexels: width,
    documentSeed: 1,
    metres: [1, 1] as const,
    heightMetres: 0.05,
    part: EXAMPLE_PART,
    images,
  }
  const read = new Set<string>()
  const watched = new Proxy(context as Record<string, unknown>, {
    get: (all, name: string) => {
      read.add(name)
      return all[name]
    },
  }) as unknown as typeof context & { prepared: unknown }
  const prepared = node.prepare?.(inputs as never, checked as never, watched)
  Object.assign(context, { prepared })
  node.evaluate(inputs as never, checked as never, outputs as never, watched)
  return { outputs, read }
}

describe.each([...registry.values()].map((node) => [node.type, node] as const))('%s', (type, node) => {
  test('parameters tell nothing that nobody reads, and what a slider covers where the range is wide', () => {
    const known = 'kind default help title unit min max softRange options visibleWhen schema whole'.split(' ')
    for (const parameter of Object.values(node.params)) {
      expect(known).toEqual(expect.arrayContaining(Object.keys(parameter)))
      const { kind, min, max, softRange } = parameter
      if (kind === 'number' && max! - min! > 200) expect(softRange).toBeDefined()
    }
  })
  test('defaults are valid and described', () => {
    expect(checkParameters(node, {})).toBeDefined()
    for (const [name, parameter] of Object.entries(node.params)) {
      expect([name, parameter.help.length > 3]).toEqual([name, true])
      expect(checkParameters(node, { [name]: parameter.default })[name]).toEqual(parameter.default)
    }
    expect(node.summary).toMatch(/\.$/)
    for (const preset of node.presets ?? []) checkParameters(node, preset.params)
  })

  test('the example runs; shapes and types match the ports; values are finite and not −0', async () => {
    const fields = await evaluateExample(node, 64)
    expect([...fields.keys()]).toEqual(Object.keys(node.outputs))
    for (const [port, field] of fields) {
      if (node.outputs[port]!.type !== 'any') expect(field.type).toBe(node.outputs[port]!.type)
      expect(eachPlane(field)).toHaveLength(planeCount(field.type))
      for (const plane of eachPlane(field)) {
        expect(plane).toHaveLength(64 * 64)
        expect(plane.findIndex((v) => !Number.isFinite(v) || Object.is(v, -0))).toBe(-1)
      }
    }
  })

  test('gives the same bits twice, and those that are stored', async () => {
    const [once, again] = [await exampleHash(node), await exampleHash(node)]
    expect(again).toBe(once)
    expect({ version: node.version, sha256: once }).toEqual(stored[type])
  })

  test('two worker threads give the same bits', async () => {
    expect(await exampleHash(node, threads)).toBe(stored[type]!.sha256)
  })

  test('a band, also across the border, equals the crop of the whole', async () => {
    const whole = await evaluateExample(node, 80)
    for (const band of [
      { top: 11, rows: 17 },
      { top: 72, rows: 16 },
      { top: -5, rows: 9 },
    ]) {
      const part = await evaluateExample(node, 80, { band })
      for (const [port, field] of part)
        eachPlane(field).forEach((plane, p) => {
          const full = eachPlane(whole.get(port)!)[p]!
          for (let y = 0; y < band.rows; y++) {
            const row = (band.top + y + 80) % 80
            expect([port, y, rowHash(plane, y * 80, (y + 1) * 80)]).toEqual([
              port,
              y,
              rowHash(full, row * 80, (row + 1) * 80),
            ])
          }
        })
    }
  })

  test('leaves its inputs as they are, writes every texel, and stays finite on edge values', () => {
    const n = 16
    const values = [0, 1, 0.5, -3, 1e9, -1e9, 1e18, -1e18, 1e-30]
    const inputs = Object.fromEntries(
      Object.entries(node.inputs).map(([name, port]) => {
        const field = createField(port.type === 'any' ? node.genericTypes![0]! : port.type, n, n)
        for (const plane of eachPlane(field))
          for (let i = 0; i < plane.length; i++) plane[i] = values[(i * 7 + name.length) % values.length]!
        return [name, field]
      }),
    )
    const before = Object.values(inputs).map((field) => bitsOf(field).map((bits) => bits.slice()))
    const { outputs, read } = runOn(type, inputs, node.example.params ?? {}, n)
    expect(Object.values(inputs).map(bitsOf)).toEqual(before)
    // What it reads of the domain stands in its keys, or a change of it would not be seen.
    const uses: readonly string[] = node.uses ?? []
    for (const [name, use] of [
      ['documentSeed', 'seed'],
      ['metres', 'metres'],
      ['heightMetres', 'heightMetres'],
    ] as const)
      expect([name, read.has(name) && !uses.includes(use)]).toEqual([name, false])
    for (const field of Object.values(outputs))
      for (const plane of eachPlane(field))
        expect(plane.findIndex((v) => !Number.isFinite(v) || Object.is(v, -0) || v === 12345)).toBe(-1)
  })

  test('every parameter at its ends runs; beyond them is a typed error', async () => {
    for (const [name, parameter] of Object.entries(node.params)) {
      for (const bad of [NaN, Infinity, 1e12, -1e12, null, {}, [], 'no such word']) {
        if (parameter.schema.safeParse(bad).success) continue
        expect(() => checkParameters(node, { [name]: bad })).toThrow(GristError)
      }
      const ends: unknown[] =
        parameter.kind === 'choice'
          ? [...parameter.options!]
          : parameter.kind === 'toggle'
            ? [true, false]
            : parameter.kind === 'pair'
              ? [
                  [parameter.min, parameter.min],
                  [Math.min(parameter.max!, 3000), parameter.min],
                ]
              : parameter.min === undefined
                ? []
                : [parameter.min, parameter.max, 0].filter((v) => parameter.schema.safeParse(v).success)
      for (const end of ends) {
        const fields = await evaluateExample(node, 16, { params: { [name]: end } })
        for (const field of fields.values())
          for (const plane of eachPlane(field))
            expect([name, end, plane.findIndex((v) => !Number.isFinite(v))]).toEqual([name, end, -1])
      }
    }
  })

  test('continues across the border', async () => {
    if (node.tiles === false) return
    const n = 128
    for (const [port, field] of await evaluateExample(node, n)) {
      if (field.ids) continue
      for (const plane of field.planes) {
        const column = (a: number, b: number) => {
          let sum = 0
          for (let y = 0; y < n; y++) sum += Math.abs(plane[y * n + a]! - plane[y * n + b]!)
          return sum / n
        }
        const row = (a: number, b: number) => {
          let sum = 0
          for (let x = 0; x < n; x++) sum += Math.abs(plane[a * n + x]! - plane[b * n + x]!)
          return sum / n
        }
        let across = 0
        let down = 0
        for (let i = 0; i + 1 < n; i++) {
          across = Math.max(across, column(i, i + 1))
          down = Math.max(down, row(i, i + 1))
        }
        // Inputs that do not tile (ramps in the examples) are let through by their own border.
        const fedByRamp = Object.values(node.example.nodes ?? {}).some(
          ({ type: of }) => registry.get(of)?.tiles === false,
        )
        if (fedByRamp) continue
        expect([port, column(n - 1, 0) <= across * 1.0001 + 1e-6]).toEqual([port, true])
        expect([port, row(n - 1, 0) <= down * 1.0001 + 1e-6]).toEqual([port, true])
      }
    }
  })

  test('2048 averaged down to 512 is within 2/255 RMS of 512', async () => {
    // A quarter of the rows, from the middle; a node that looks at everything works them all out anyway.
    const rows = { top: 192, rows: 128 }
    const band = { top: 4 * rows.top, rows: 4 * rows.rows }
    const large = await evaluateExample(node, 2048, { executor: threads, band })
    for (const [port, small] of await evaluateExample(node, 512, { executor: threads, band: rows })) {
      if (node.hardEdged?.includes(port)) continue
      const fineField = large.get(port)!
      small.planes.forEach((plane, p) => {
        const fine = fineField.planes[p]!
        let squares = 0
        for (let y = rows.top; y < rows.top + rows.rows; y++) {
          const own = rowStart(small, y)
          const starts = [0, 1, 2, 3].map((dy) => rowStart(fineField, 4 * y + dy))
          for (let x = 0; x < 512; x++) {
            let sum = 0
            for (const start of starts) for (let dx = 0; dx < 4; dx++) sum += fine[start + 4 * x + dx]!
            squares += (sum / 16 - plane[own + x]!) ** 2
          }
        }
        const rms = Math.sqrt(squares / (512 * rows.rows))
        expect([port, rms < 2 / 255, rms]).toEqual([port, true, rms])
      })
    }
  })
})
