import type { Output } from '../document/address'
import { formatPort } from '../document/address'
import type { Derivation } from '../document/channel'
import type { Channel, OptionalChannel } from '../document/channels'
import { CHANNELS, optionalChannel } from '../document/channels'
import type { Sharpening } from '../document/sharpening'
import { sharpenOf } from '../document/sharpening'
import { GristError, located } from '../errors'
import type { PortRef } from '../graph/graph'
import { sameRef } from '../graph/graph'
import { isDefaultNode } from '../graph/ports'
import type { MeshDataKind } from '../graph/mesh-data-kinds'
import { meshDataPort } from '../graph/mesh-data-kinds'
import { bottomOf } from './bottom'
import type { Context } from './context'
import { entrySource } from './masks'
import type { Sources } from './sources'

/** What happens to channels on their way out. */
export interface OutputOptions {
  /** How much channels are sharpened at the size they are made. */
  readonly sharpen?: Sharpening
  /** Whether colours grow outward under what is transparent. */
  readonly bleeds?: boolean
}

/** Where an output is found. Throws reference-unknown and what composing throws. */
export function refOf(context: Context, sources: Sources, output: Output, options: OutputOptions): PortRef {
  switch (output.kind) {
    case 'channel':
      return padded(context, made(context, context.channel(output.channel), options))
    case 'port':
      return sources.port(formatPort(output), sources.readerOf(output.node))
    case 'tap':
      return sources.tap(output.tap, null)
    case 'layer':
      return sources.tapped({ layer: output.layer, channel: output.channel }, null)
    case 'mask':
      return sources.tapped({ layer: output.layer, mask: true }, null)
    case 'cell':
      return cellSource(context, output.layer, output.channel)
    case 'entry': {
      const position = context.positionOf(output.layer)
      if (!position.layer.mask[output.entry])
        throw new GristError('reference-unknown', `The mask of layer "${output.layer}" has no entry ${output.entry}.`)
      return located({ layer: output.layer }, () => entrySource(context, position, output.entry))
    }
  }
}

function cellSource(context: Context, id: string, channel: string): PortRef {
  const position = context.positionOf(id)
  const { layer } = position
  const cell = layer.kind === 'group' ? undefined : layer.cells[channel]
  if (!cell) throw new GristError('reference-unknown', `Layer "${id}" puts nothing into "${channel}".`)
  const now = (): typeof cell.source => {
    const at = context.positionOf(id).layer
    return at.kind === 'group' ? cell.source : at.cells[channel]!.source
  }
  return located({ layer: id, parameter: channel }, () =>
    context.builder.convert(context.source(cell.source, position, now), context.channel(channel).type),
  )
}

/** What is made of other channels is made of them as they leave; what its node reads of mesh data it reads itself. */
function derivedFrom(
  context: Context,
  { node, port, takes = {}, bakes = [] }: Derivation,
  options: OutputOptions,
): PortRef {
  const { builder, document } = context
  const inputs = Object.entries(builder.registry.get(node)!.inputs).flatMap(([name, { whenUnconnected }]) => {
    if (isDefaultNode(whenUnconnected)) return []
    const id = takes[name] ?? name
    const known = optionalChannel(id)
    const ref =
      !known || Object.hasOwn(document.channels, id)
        ? builder.convert(made(context, context.channel(id), options), known ? 'grey' : context.channel(id).type)
        : bakes.includes(id)
          ? madeOnPart(context, known)
          : null
    return ref ? [[name, ref] as const] : []
  })
  return builder.add(node, {}, Object.fromEntries(inputs)).out(port)
}

/** What an optional channel is on a part that no layer writes it for; null where nothing is made of mesh data. */
function madeOnPart({ builder }: Context, { onPart }: OptionalChannel): PortRef | null {
  if (!onPart || builder.domain.part?.data[onPart.data] === undefined) return null
  return builder.add(onPart.node, onPart.params, {}).out(onPart.port)
}

/** On a part, what lies between its islands is theirs. */
const padded = ({ builder }: Context, of: PortRef): PortRef =>
  builder.domain.part && !of.step.uniform ? builder.add('pad', {}, { source: of }).out('result') : of

/** A channel, sharpened against its neighbours where that is asked for and held to 0–1 then, as what goes beyond cannot be in a file. */
function made(context: Context, channel: Channel, options: OutputOptions): PortRef {
  if (channel.derived) return derivedFrom(context, channel.derived, options)
  const { sharpen = 0, bleeds = false } = options
  const crisp = sharpened(context, channel, sharpen)
  if (!bleeds || channel.type !== 'colour') return crisp
  const opacity = composed(context, context.channel('opacity'))
  // What is opaque throughout has nothing to grow under.
  return opacity.step.uniform ? crisp : context.builder.add('bleed', {}, { source: crisp, opacity }).out('result')
}

/** The same before it grows outward. */
function sharpened(context: Context, channel: Channel, sharpen: Sharpening): PortRef {
  const own = composed(context, channel)
  const amount = sharpenOf(channel, sharpen)
  if (amount === 0 || own.step.uniform) return own
  const { builder } = context
  const crisp = builder.add('sharpen', { method: 'neighbours', amount }, { source: own }).out('result')
  return builder.add('levels', { clamp: true }, { source: crisp }).out('result')
}

/** A channel as it leaves the material: on a part, normal and occlusion lie on what was baked of its form. */
function composed(context: Context, channel: Channel): PortRef {
  const own = composedOfLayers(context, channel)
  const { builder } = context
  const baked = (kind: MeshDataKind): PortRef | null =>
    builder.domain.part?.data[kind] === undefined
      ? null
      : builder.add('mesh-data', { kind }, {}).out(meshDataPort(kind))
  const untouched = sameRef(own, bottomOf(context, channel))
  const known = optionalChannel(channel.id)
  if (known && untouched) return madeOnPart(context, known) ?? own
  const kind = channel.takesHeight === 'slopes' ? 'normal' : channel.takesHeight ? 'occlusion' : null
  const base = kind && baked(kind)
  if (!base) return own
  if (untouched) return base
  return kind === 'normal'
    ? builder.add('combine-normals', {}, { base, detail: own }).out('result')
    : builder.add('blend', { mode: 'multiply' }, { base: own, source: base }).out('result')
}

/** What layers come to: normal and occlusion take the composed height in. */
function composedOfLayers(context: Context, channel: Channel): PortRef {
  const { builder, document } = context
  const top = (of: Channel): PortRef => context.after(context.scopeOf(''), document.layers.length - 1, of).value
  const own = top(channel)
  const heightChannel = CHANNELS.find(({ isHeight }) => isHeight)!
  if (!channel.takesHeight || (channel.takesHeight === 'slopes' && document.normalsHoldHeight)) return own
  const height = top(heightChannel)
  if (sameRef(height, bottomOf(context, heightChannel)) || height.step.uniform) return own
  const untouched = sameRef(own, bottomOf(context, channel))
  if (channel.takesHeight === 'slopes') {
    const slopes = builder.add('height-to-normal', {}, { height }).out('normal')
    return untouched ? slopes : builder.add('combine-normals', {}, { base: slopes, detail: own }).out('result')
  }
  const { radiusMetres, strength } = document.occlusion
  const open = builder.add('height-to-occlusion', { radius: radiusMetres, strength }, { height }).out('occlusion')
  return untouched ? open : builder.add('blend', { mode: 'multiply' }, { base: own, source: open }).out('result')
}
