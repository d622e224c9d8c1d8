import { useMemo } from 'react'
import type { GristError } from '#core/errors'
import { fileNames } from '#core/texture/packing'
import { useDocument } from '../../session/material'
import { useMapsView, usePackings } from './maps'
import { useFiles } from './files'
import { useDelivering } from './deliveries-context'

/** The names that the files would get now, by map; or why the pattern does not work. */
export function useNames(): { names: Readonly<Record<string, string>> | null; problem: string | null } {
  const pattern = usePackings((state) => state.packing.pattern)
  const { files } = useFiles()
  const { name: material } = useDocument()
  const width = useMapsView((view) => view.settings.width)
  const { project, next } = useDelivering()
  return useMemo(() => {
    try {
      const names = fileNames(pattern, files, { material, size: width, project: project.name, delivery: next })
      return { names: Object.fromEntries(files.map(({ map }, i) => [map, names[i]!])), problem: null }
    } catch (error) {
      return { names: null, problem: (error as GristError).detail }
    }
  }, [pattern, files, material, width, project.name, next])
}
