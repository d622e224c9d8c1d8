import { useMemo } from 'react'
import type { GristError } from '#core/errors'
import { partNames, patternNames, sharedNames } from '#core/texture/packing'
import { useMaterial, usePlacement } from '../../session/material'
import { useMade, useMapsView, usePackings } from './maps'
import { useFiles } from './files'
import { useDelivering } from './deliveries-context'

/** The names that the files would get now, by map; which maps would share one; or why the pattern does not work. */
export function useNames(): {
  names: Readonly<Record<string, string>> | null
  clashing: ReadonlySet<string>
  problem: string | null
} {
  const pattern = usePackings((state) => state.packing.pattern)
  const { files } = useFiles()
  const made = useMade()
  const { placement } = useMaterial()
  const placed = usePlacement((one) => one)
  const width = useMapsView((view) => view.settings.width)
  const { project, next } = useDelivering()
  return useMemo(() => {
    try {
      const on = partNames(placement.resolve(made))
      const fixed = { material: made.name, size: width, project: project.name, delivery: next }
      const names = patternNames(pattern, files, { ...on, ...fixed })
      const shared = new Set(sharedNames(names))
      return {
        names: Object.fromEntries(files.map(({ map }, i) => [map, names[i]!])),
        clashing: new Set(files.filter((_, i) => shared.has(names[i]!)).map(({ map }) => map)),
        problem: null,
      }
    } catch (error) {
      return { names: null, clashing: new Set<string>(), problem: (error as GristError).detail }
    }
  }, [pattern, files, made, placement, placed, width, project.name, next])
}
