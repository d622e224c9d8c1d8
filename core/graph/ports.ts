import type { Field, PortType } from '../field/field'
import type { MeshDataKind } from './mesh-data-kinds'
import { meshDataPort } from './mesh-data-kinds'

/** A type, or `same`: one type shared by all such ports of a node, decided by what is connected. */
export interface Port {
  readonly type: PortType | 'any'
  readonly help: string
  /** Shown in place of its name. */
  readonly title?: string
}

export interface InputPort extends Port {
  /**
   * What an unconnected input reads: a value everywhere, or what a node of its own makes (such as mesh data of the part); absent = it must be connected, null = the node
   * does without it.
   */
  readonly whenUnconnected?: number | null | DefaultNode
}

/** A node with its parameters as they stand in its definition, but for those given; read at one of its outputs. */
export interface DefaultNode {
  readonly type: string
  readonly params: Readonly<Record<string, unknown>>
  readonly port: string
}

/** Whether an input that nothing is connected to reads what a node of its own makes. */
export const isDefaultNode = (value: InputPort['whenUnconnected']): value is DefaultNode =>
  typeof value === 'object' && value !== null

/** Mesh data of the part, at the output of their node that carries them as they are. */
export const meshData = (kind: MeshDataKind): DefaultNode => ({
  type: 'mesh-data',
  params: { kind },
  port: meshDataPort(kind),
})

export type InputPorts = Readonly<Record<string, InputPort>>
export type OutputPorts = Readonly<Record<string, Port>>

type InputOptions = { help: string; title?: string; whenUnconnected?: number | null | DefaultNode }
const port =
  <T extends PortType | 'any'>(type: T) =>
  <const O extends InputOptions>(options: O): O & { readonly type: T } => ({ type, ...options })

export const grey = port('grey')
export const colour = port('colour')
export const normal = port('normal')
export const vector = port('vector')
export const id = port('id')
/** Shares one type with the node's other `same` ports. */
export const any = port('any')

/** The fields `evaluate` is handed: null only for ports that may stay unconnected. */
export type InputFields<I extends InputPorts> = {
  [K in keyof I]: I[K] extends { readonly whenUnconnected: null } ? Field | null : Field
}
/** The fields `evaluate` fills: undefined for outputs nobody asked for. */
export type OutputFields<O extends OutputPorts> = { [K in keyof O]: Field | undefined }
