import type { RefObject } from 'react'
import { useEffect } from 'react'
import { useMaterial, useView } from '../../session/material'
import { widthFor } from '../../session/view'

/** Keeps the preview as wide as the stage shows sharp, while nobody has chosen a size. */
export function useFollowingPreview(area: RefObject<HTMLElement | null>): void {
  const { view } = useMaterial()
  const follows = useView((one) => one.widthFollows)
  useEffect(() => {
    if (!follows || !area.current) return
    const watch = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect
      const wanted = widthFor(Math.min(width, height) * window.devicePixelRatio)
      if (width > 0 && view.getState().width !== wanted) view.setState({ width: wanted })
    })
    watch.observe(area.current)
    return () => watch.disconnect()
  }, [view, area, follows])
}
