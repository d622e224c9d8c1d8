import type { Channel } from '../document/channels'
import type { PortRef } from '../graph/graph'
import type { Context } from './context'

/** A channel below the lowest layer. */
export function bottomOf({ document, builder }: Context, channel: Channel): PortRef {
  if (channel.type === 'normal') return builder.add('flat-normal', {}, {}).out('normal')
  const own = document.channels[channel.id]
  return builder.convert(builder.constant(own ? own.backdrop : channel.backdrop[0]!), channel.type)
}
