import { useEffect, useState } from 'react'
import { channelsOf } from '#core/document/channels'
import type { ProbedValue } from '../../../runtime/browser/protocol'
import { useUndialled, useMaterial } from '../../session/material'
import type { StageRenderer } from './stage-renderer.client'
import { encodedByte } from '#core/preview/display'

/** The values of every channel under the pointer; `tall` has room for two lines always, so that what stands above stays where it is. */
export function Probe({
  renderer,
  area,
  tall,
}: {
  renderer: StageRenderer
  area: React.RefObject<HTMLDivElement | null>
  tall: boolean
}) {
  const { evaluation } = useMaterial()
  const document = useUndialled()
  const [found, setFound] = useState<{ u: number; v: number; values: readonly ProbedValue[] } | null>(null)
  useEffect(() => {
    const element = area.current!
    let busy = false
    let next: PointerEvent | null = null
    const look = async (event: PointerEvent): Promise<void> => {
      next = event
      if (busy) return
      busy = true
      while (next) {
        const { clientX, clientY } = next
        next = null
        const { left, top } = element.getBoundingClientRect()
        const uv = renderer.places.uvAt(clientX - left, clientY - top)
        setFound(uv ? { ...uv, values: await evaluation.probe(uv.view, uv.u, uv.v) } : null)
      }
      busy = false
    }
    const move = (event: PointerEvent): void => void look(event)
    const leave = (): void => {
      next = null
      setFound(null)
    }
    element.addEventListener('pointermove', move)
    element.addEventListener('pointerleave', leave)
    return () => {
      element.removeEventListener('pointermove', move)
      element.removeEventListener('pointerleave', leave)
    }
  }, [renderer, evaluation, area])
  const channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
  return (
    <p
      data-probe
      className={`pointer-events-none! rounded-md bg-raised px-2.5 py-1 font-mono text-note leading-snug ${tall ? 'min-h-11' : ''}`}
    >
      {found ? (
        <>
          u {found.u.toFixed(3)} v {found.v.toFixed(3)}
          {found.values.map(({ channel, type, values }) => (
            <span key={channel}>
              {'  '}
              <span className="text-ink-soft">
                {channels.get(channel)?.short ?? channels.get(channel)?.title.toLowerCase() ?? channel}
              </span>{' '}
              {type === 'colour' ? values.map(encodedByte).join(' ') : values.map(short).join(' ')}
              {channels.get(channel)?.isHeight &&
                ` (${((values[0]! - 0.5) * document.heightMetres * 1000).toFixed(1)} mm)`}
            </span>
          ))}
        </>
      ) : (
        <span className="text-ink-soft">Point at the material to read its values.</span>
      )}
    </p>
  )
}

const short = (v: number): string => {
  const text = v.toFixed(3).replace(/\.?0+$/, '')
  return text === '-0' ? '0' : text.replace(/^(-?)0\./, '$1.')
}
