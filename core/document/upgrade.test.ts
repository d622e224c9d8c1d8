import { readFileSync } from 'node:fs'
import { hashBytes } from '../hash'
import { registry } from '../nodes/registry.generated'
import { bitsOf } from '../testing/examples'
import { materialHere } from '../testing/material-here'
import { channelOutput } from './address'
import { channelsOf } from './channels'
import { parseDocument } from './document'
import { DOCUMENT_VERSION, upgradeDocument } from './upgrade'

const read = (version: number): Record<string, unknown> =>
  JSON.parse(readFileSync(`core/document/samples/version-${version}.json`, 'utf8')) as Record<string, unknown>

/**
 * SHA-256 of each channel's bits at 48 texels, by the last program that wrote version 1. Two are as later
 * versions of nodes make them: occlusion by height-to-occlusion 2, with its fall-off on the tangent, and colour by encode-srgb 2 and
 * decode-srgb 2, which are within 5e-7 of those before (kernels/srgb.test.ts).
 */
const VERSION_1: Readonly<Record<string, string>> = {
  colour: 'df0131b3f6372f19aefece9c7cbcc543cb132489fd8bcb5f33f4a790a9dca0ab',
  height: 'b49e54088c9b45ab15f0986ac27f515a1aadd71360b6bab8c292a3c1a52f956d',
  roughness: '418cd205c666dcd57f5b50e5d0e937bd65c7b1417b70d6a412e6943396d86e1c',
  metallic: '2d07a41ae992770085117e9815300bfd0730745883e60b24aaad5e69dfc087ae',
  normal: '2d5e7f5cc5dcaa6c1d41b9090b744f33eca35955e1efe446557f708a7ac72ec6',
  occlusion: 'adb92200bf336e5b0e7a3048fd4680973d7fa5273f42026a092f167a7f5ea3d4',
  opacity: 'f6d2245563c2e39ae44bcc87c0d7d91c13aa1af9de1c7da8d222db1907ac2fe3',
  emission: '0a182a88ffcf20dcc892515a01db9af1a707814b982b9c21e1d9b3b4b203ceef',
  wet: '565c6094da2f7c5b5bc2fed2452cd1c1a2a413d71733b3668e9db581e1244654',
}

test('a document of version 1 gives the very bits that it gave', async () => {
  const document = parseDocument(read(1))
  const outputs = channelsOf(document).map(({ id }) => channelOutput(id))
  const { fields } = await materialHere(document).evaluate({ outputs, width: 48 })
  for (const [channel, field] of fields) {
    const bytes = bitsOf(field).map((bits) => new Uint8Array(bits.buffer, bits.byteOffset, bits.byteLength))
    expect([channel, hashBytes(Buffer.concat(bytes))]).toEqual([channel, VERSION_1[channel]])
  }
  expect(fields.size).toBe(Object.keys(VERSION_1).length)
})

test('nothing of it goes by an old name, and nothing is lost', () => {
  const old = read(1)
  const document = parseDocument(old)
  expect(document.version).toBe(DOCUMENT_VERSION)
  expect(Object.keys(document.nodes)).toEqual(Object.keys(old.nodes as object))
  for (const [id, { type, params = {}, inputs = {} }] of Object.entries(document.nodes)) {
    const node = registry.get(type)!
    for (const name of Object.keys(params))
      expect([id, Object.keys(node.params)]).toEqual([id, expect.arrayContaining([name])])
    for (const name of Object.keys(inputs))
      expect([id, Object.keys(node.inputs)]).toEqual([id, expect.arrayContaining([name])])
  }
  expect(JSON.stringify(document)).not.toMatch(/"below"|lines\.run|"params":\{[^}]*"(moved|counts|share|lowShare)"/)
  expect(document.dials[0]!.drives.map((drive) => drive.field)).toEqual([
    'positionJitter',
    'rotationJitter',
    'frequency.0',
    'strength',
  ])
})

test('whatever is no member of a document is left for the schema to refuse', () => {
  const place = { document: 'broken' }
  for (const broken of [
    { nodes: 5 },
    { nodes: { a: 7, b: { type: 'smear', params: 3, inputs: [] } } },
    { layers: [null, { mask: 3 }] },
    { dials: [{ drives: [1] }] },
    { taps: { a: 1 } },
  ])
    expect(() => upgradeDocument({ format: 'amber-grist/material', version: 1, ...broken }, place)).not.toThrow()
})
