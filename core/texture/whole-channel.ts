import { channelOutput } from '../document/address'
import { deliverableChannels } from '../document/channels'
import type { Field } from '../field/field'
import { copyRows, createField } from '../field/field'
import { GristError } from '../errors'
import type { ChannelRequest, ChannelSource } from './channel-source'

/**
 * One channel of a source, all of it, in memory of its own. Throws reference-unknown where there is none of that name, and what evaluating
 * throws.
 */
export async function wholeChannel(
  source: ChannelSource,
  id: string,
  request: Pick<ChannelRequest, 'width' | 'budgetBytes' | 'isCancelled' | 'onProgress'>,
): Promise<Field> {
  const channel = deliverableChannels(source.document).find((one) => one.id === id)
  if (!channel)
    throw new GristError('reference-unknown', `There is no channel "${id}".`, { document: source.document.name })
  const { width, height } = source.sizeAt(request.width)
  const whole = createField(channel.type, width, height)
  await source.evaluateBands({ ...request, outputs: [channelOutput(id)] }, (fields, { top, rows }) =>
    copyRows([...fields.values()][0]!, whole, top, top + rows),
  )
  return whole
}
