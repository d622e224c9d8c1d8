import { useMemo } from 'react'
import type { GristError } from '#core/errors'
import { patternNames, sharedNames } from '#core/texture/packing'
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
  const { name: material } = useMade()
  const width = useMapsView((view) => view.settings.width)
  const { project, next } = useDelivering()
  return useMemo(() => {
    try {
      const names = patternNames(pattern, files, { material, size: width, project: project.name, delivery: next })
      const shared = new Set(sharedNames(names))
      return {
        names: Object.fromEntries(files.map(({ map }, i) => [map, names[i]!])),
        clashing: new Set(files.filter((_, i) => shared.has(names[i]!)).map(({ map }) => map)),
        problem: null,
      }
    } catch (error) {
      return { names: null, clashing: new Set<string>(), problem: (error as GristError).detail }
    }
  }, [pattern, files, material, width, project.name, next])
}
