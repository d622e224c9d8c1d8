import { expose, transfer } from 'comlink'
import { fetchImage } from '../../../runtime/browser/fetch-raster'
import type { Radiance } from './environments'
import { ENVIRONMENT } from './environments'
import { radianceOf } from './picture-light'
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
  levelsOf: (name: keyof typeof ENVIRONMENT): EnvironmentLevel[] => levelsOf(ENVIRONMENT[name].radiance),
  /** The same of a picture of the library. Throws asset-missing. */
  levelsOfPicture: async (picture: string): Promise<EnvironmentLevel[]> =>
    levelsOf(radianceOf(await fetchImage(picture))),
}
export type EnvironmentCalls = typeof calls

function levelsOf(radiance: Radiance): EnvironmentLevel[] {
  // Cubes that are no render targets are looked up with x turned about.
  const levels = prefiltered((x, y, z) => radiance(-x, y, z), EDGE).map((cube) => ({
    edge: cube.edge,
    faces: halvesOf(cube),
  }))
  return transfer(
    levels,
    levels.flatMap(({ faces }) => faces.map(({ buffer }) => buffer)),
  )
}

expose(calls)
