import { useCallback, useEffect, useRef } from 'react'
import type { DisplayBytes } from '#core/preview/display'
import { bitmapOf } from './bitmap'

/**
 * A small picture as the workers made it, with a hairline that keeps white and black ones apart from the ground. An image and
 * no canvas: each canvas is a layer of its own, and with a hundred of them a browser spends 60 ms a frame on putting layers
 * in order (10 ms with images).
 */
export function Picture({
  picture,
  watched,
  className = '',
  ...rest
}: {
  picture: DisplayBytes | undefined
  /** Is given the element, as a ref would be. */
  watched?: (element: Element | null) => (() => void) | undefined
} & React.ComponentProps<'img'>) {
  const image = useRef<HTMLImageElement>(null)
  const attach = useCallback(
    (element: HTMLImageElement | null) => {
      image.current = element
      return watched?.(element)
    },
    [watched],
  )
  useEffect(() => {
    if (!picture || !image.current) return
    // The one before stays in sight until this one is there.
    const address = URL.createObjectURL(bitmapOf(picture))
    image.current.src = address
    // Also once another one has come: an address that is taken back while it is read is an error.
    const forget = (): void => URL.revokeObjectURL(address)
    void image.current.decode().then(forget, forget)
  }, [picture])
  return (
    <img
      ref={attach}
      alt=""
      aria-hidden
      decoding="sync"
      draggable={false}
      {...rest}
      className={`bg-view object-cover outline-1 -outline-offset-1 outline-ink/15 ${picture ? '' : 'opacity-40'} ${className}`}
    />
  )
}
