import { existsSync } from 'node:fs'
import { channelOutput } from '#core/document/address'
import { CHANNELS } from '#core/document/channels'
import { parseDocument } from '#core/document/document'
import { unusedNodes } from '#core/document/edits/nodes'
import { materialHere } from '#core/testing/material-here'
import { STARTS } from './index'

describe.each(STARTS.map((start) => [start.id, start] as const))('%s', (id, { document: given }) => {
  const document = parseDocument(given)

  it('is whole: nothing is at fault, nothing lies about unused, it has a picture', async () => {
    const { faults } = await materialHere(document).evaluatePartial({
      outputs: CHANNELS.map((channel) => channelOutput(channel.id)),
      width: 32,
    })
    expect([...faults.values()].map(({ message }) => message)).toEqual([])
    expect(unusedNodes(document)).toEqual([])
    expect(existsSync(new URL(`../../public/starts/${id}.webp`, import.meta.url))).toBe(true)
  })

  it('has dials that each change what is seen, and neither end of any is at fault', async () => {
    const outputs = ['colour', 'height', 'roughness'].map(channelOutput)
    const keys = async (dial: string, value: number) => {
      const turned = {
        ...document,
        dials: document.dials.map((one) => (one.id === dial ? { ...one, value } : one)),
      }
      const { keys, faults } = await materialHere(turned).evaluatePartial({ outputs, width: 8 })
      expect(faults.size).toBe(0)
      return JSON.stringify([...keys])
    }
    expect(document.dials.length).toBeGreaterThan(2)
    for (const { id: dial, min, max } of document.dials) expect(await keys(dial, min!)).not.toBe(await keys(dial, max!))
  })
})
