import { useCallback, useEffect, useRef } from 'react'
import type { DisplayBytes } from '#core/preview/display'

/** A small picture as the workers made it, with a hairline that keeps white and black ones apart from the ground. */
export function Picture({
  picture,
  watched,
  className = '',
  ...rest
}: {
  picture: DisplayBytes | undefined
  /** Is given the element, as a ref would be. */
  watched?: (element: Element | null) => (() => void) | undefined
} & React.ComponentProps<'canvas'>) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const attach = useCallback(
    (element: HTMLCanvasElement | null) => {
      canvas.current = element
      return watched?.(element)
    },
    [watched],
  )
  useEffect(() => {
    const target = canvas.current
    if (!target || !picture) return
    target.width = picture.width
    target.height = picture.height
    target.getContext('2d')!.putImageData(new ImageData(picture.pixels, picture.width, picture.height), 0, 0)
  }, [picture])
  return (
    <canvas
      ref={attach}
      aria-hidden
      {...rest}
      className={`bg-view object-cover outline-1 -outline-offset-1 outline-ink/15 ${picture ? '' : 'animate-pulse opacity-40'} ${className}`}
    />
  )
}
