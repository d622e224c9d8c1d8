import { expose, transfer } from 'comlink'
import type { StageView } from '../../session/view'
import { ENVIRONMENT } from './environments'
import { halvesOf, prefiltered } from './prefilter'

/** Texels along an edge of an environment's cube. */
const EDGE = 64

/** A level of an environment's cube: its six faces as half floats, RGBA. */
export interface EnvironmentLevel {
  readonly edge: number
  readonly faces: readonly Uint16Array<ArrayBuffer>[]
}

/** Environments as surfaces mirror them, made beside the page: they would hold it up for a quarter of a second. */
const calls = {
  levelsOf: (name: StageView['environment']): EnvironmentLevel[] => {
    const { radiance } = ENVIRONMENT[name]
    // Cubes that are no render targets are looked up with x turned about.
    const levels = prefiltered((x, y, z) => radiance(-x, y, z), EDGE).map((cube) => ({
      edge: cube.edge,
      faces: halvesOf(cube),
    }))
    return transfer(
      levels,
      levels.flatMap(({ faces }) => faces.map(({ buffer }) => buffer)),
    )
  },
}
export type EnvironmentCalls = typeof calls

expose(calls)
