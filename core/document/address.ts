import { GristError, show } from '../errors'

/** A port of a node; documents write it "node.port". */
export interface PortAddress {
  readonly node: string
  readonly port: string
}

/** Everything of a material that can be asked for, shown or delivered. */
export type Output =
  /** A channel as it leaves the material. */
  | { readonly kind: 'channel'; readonly channel: string }
  | ({ readonly kind: 'port' } & PortAddress)
  | { readonly kind: 'tap'; readonly tap: string }
  /** A channel up to and with a layer. */
  | { readonly kind: 'layer'; readonly layer: string; readonly channel: string }
  /** The whole mask of a layer. */
  | { readonly kind: 'mask'; readonly layer: string }
  /** What a layer's cell puts in, before it is blended. */
  | { readonly kind: 'cell'; readonly layer: string; readonly channel: string }
  /** One entry of a layer's mask. */
  | { readonly kind: 'entry'; readonly layer: string; readonly entry: number }

/** The parts of "node.port". A text without a dot has an empty port. */
export function parsePort(text: string): PortAddress {
  const dot = text.indexOf('.')
  return dot < 0 ? { node: text, port: '' } : { node: text.slice(0, dot), port: text.slice(dot + 1) }
}

export const formatPort = ({ node, port }: PortAddress): string => `${node}.${port}`

export const channelOutput = (channel: string): Output => ({ kind: 'channel', channel })

/**
 * Reads an output as command lines and addresses write it: "height", "lay.distance", "tap:wear", "layer:stone:height",
 * "layer:stone:mask", "cell:stone:height", "entry:stone:0". Throws reference-unknown.
 */
export function parseOutput(text: string): Output {
  const [kind = '', first = '', second = '', ...more] = text.split(':')
  if (!text.includes(':')) return text.includes('.') ? { kind: 'port', ...parsePort(text) } : channelOutput(text)
  const whole = first !== '' && more.length === 0
  if (kind === 'tap' && whole && second === '') return { kind, tap: first }
  if (whole && second !== '') {
    if (kind === 'layer')
      return second === 'mask' ? { kind: 'mask', layer: first } : { kind, layer: first, channel: second }
    if (kind === 'cell') return { kind, layer: first, channel: second }
    if (kind === 'entry' && /^\d{1,6}$/.test(second)) return { kind, layer: first, entry: Number(second) }
  }
  throw new GristError(
    'reference-unknown',
    'Expected an output as CHANNEL, NODE.PORT, tap:TAP, layer:LAYER:CHANNEL, layer:LAYER:mask, cell:LAYER:CHANNEL or ' +
      `entry:LAYER:NUMBER but received ${show(text)}.`,
  )
}

/** The text that parseOutput reads; equal outputs have equal texts. */
export function formatOutput(output: Output): string {
  switch (output.kind) {
    case 'channel':
      return output.channel
    case 'port':
      return formatPort(output)
    case 'tap':
      return `tap:${output.tap}`
    case 'layer':
      return `layer:${output.layer}:${output.channel}`
    case 'mask':
      return `layer:${output.layer}:mask`
    case 'cell':
      return `cell:${output.layer}:${output.channel}`
    case 'entry':
      return `entry:${output.layer}:${output.entry}`
  }
}
