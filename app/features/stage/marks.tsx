import { useEffect, useRef } from 'react'
import type { Mark } from '#core/checks/texels-where'
import type { StageRenderer } from './stage-renderer.client'

/** Rings around places of the tile in the flat view; they go along as it is moved. */
export function Marks({ renderer, marks }: { renderer: StageRenderer; marks: readonly Mark[] }) {
  const list = useRef<HTMLUListElement>(null)
  useEffect(() => {
    const place = (): void => {
      const rings = list.current?.children ?? []
      marks.forEach(([u, v], i) => {
        const { x, y } = renderer.places.pointOf(u, v)
        const ring = rings[i] as HTMLElement | undefined
        if (ring) ring.style.transform = `translate(${x}px, ${y}px) translate(-50%, -50%)`
      })
    }
    place()
    return renderer.afterFrames(place)
  }, [renderer, marks])
  return (
    <ul ref={list} aria-label="Marks" className="pointer-events-none absolute inset-0 overflow-hidden">
      {marks.map(([u, v], i) => (
        <li key={i} aria-label={`u ${u.toFixed(3)} v ${v.toFixed(3)}`} className="absolute top-0 left-0">
          <span className="block size-7 rounded-full border-2 border-white outline-2 outline-black" />
        </li>
      ))}
    </ul>
  )
}
