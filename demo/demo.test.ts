import { channelOutput } from '#core/document/address'
import { subjectOfFields } from '#core/checks/subject'
import { materialHere } from '#core/testing/material-here'
import { readFileSync, readdirSync } from 'node:fs'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { applyDials } from '#core/document/apply-dials'
import { channelsOf } from '#core/document/channels'
import { runChecks } from '#core/checks/check'
import { checks } from '#core/checks/rules/rules.generated'
import { openThreads } from '#runtime/node/threads'
import { onPart } from '#core/document/domain'
import { EXAMPLE_PART, exampleMeshData } from '#core/graph/example-part'
import { readImage } from '#runtime/node/read-image'

const threads = openThreads(2)
afterAll(() => threads.close())

const files = readdirSync('demo').filter((name) => name.endsWith('.json'))
const open = (file: string): MaterialDocument => parseDocument(JSON.parse(readFileSync(`demo/${file}`, 'utf8')), file)

/** What our own check finds in a material. */
async function findings(document: MaterialDocument, width: number) {
  const outputs = channelsOf(document).map(({ id }) => channelOutput(id))
  // A material for parts lies on the part that examples do.
  const images = { load: async (name: string) => exampleMeshData(name) ?? readImage(`demo/${name}`) }
  const { fields } = await materialHere(onPart(document, EXAMPLE_PART), { executor: threads, images }).evaluate({
    outputs,
    width,
  })
  return runChecks(checks, subjectOfFields(document, fields))
}

test.each(files)('%s: the check finds no error: it tiles, its normals are sound', async (file) => {
  const found = await findings(open(file), 128)
  expect(found.filter(({ severity }) => severity === 'error')).toEqual([])
})

test('Quay setts: every bond is sound, and each dial at both ends', async () => {
  const setts = open('quay-setts.json')
  expect(setts.dials.length).toBeGreaterThanOrEqual(10)
  const bond = setts.dials.find(({ id }) => id === 'bond')!
  expect(bond.options!.length).toBeGreaterThanOrEqual(6)
  const turned = (id: string, value: number | string): MaterialDocument =>
    applyDials({ ...setts, dials: setts.dials.map((one) => (one.id === id ? { ...one, value } : one)) })
  const cases = [
    ...bond.options!.map((option) => [bond.id, option] as const),
    ...setts.dials.flatMap(({ id, min, max }) =>
      [min, max].flatMap((end) => (end === undefined ? [] : [[id, end] as const])),
    ),
  ]
  for (const [id, value] of cases) {
    const found = await findings(turned(id, value), 64)
    expect([id, value, found.filter(({ severity }) => severity === 'error')]).toEqual([id, value, []])
  }
})
