import { metresOf } from '#core/document/domain'
import { useEffect, useMemo, useRef, useState } from 'react'
import { sharpenOf } from '#core/document/sharpening'
import type { DisplayBytes } from '#core/preview/display'
import { useMaterial } from '../../session/material'
import { ARROWS } from '../../ui/arrows'
import { Button } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import { Modal } from '../../ui/modal'
import { Picture } from '../../ui/picture'
import { sizeFor } from './files'
import { useChannels, useMade, useMaps, useMapsView } from './maps'

/** Size of the window, in pixels of the screen. */
const WIDE = 612
const HIGH = 400

interface Found {
  readonly key: string
  readonly picture: DisplayBytes | string
}

/** A part of a channel at the size it is delivered, a texel a pixel, with and without sharpening; dragged about. */
export function DeliveredWindow({ onClose }: { onClose(): void }) {
  const { evaluation } = useMaterial()
  const { view } = useMaps()
  const settings = useMapsView((one) => one.settings)
  const document = useMade()
  const channels = useChannels()
  const first = channels.find((channel) => sharpenOf(channel, settings.sharpen) > 0) ?? channels[0]!
  const [id, setId] = useState(first.id)
  const channel = channels.find((one) => one.id === id) ?? first
  const amount = sharpenOf(channel, settings.sharpen)
  const [sharpened, setSharpened] = useState(amount > 0)
  const [place, setPlace] = useState<readonly [number, number]>([0, 0])
  const [shift, setShift] = useState<readonly [number, number]>([0, 0])
  const [found, setFound] = useState<readonly Found[]>([])
  const [ratio, setRatio] = useState<number | null>(null)
  const grip = useRef<{ readonly x: number; readonly y: number } | null>(null)
  const ratioOfScreen = window.devicePixelRatio
  const request = useMemo(
    () => ({
      channel: channel.id,
      width: settings.width,
      left: place[0],
      top: place[1],
      wide: Math.round(WIDE * ratioOfScreen),
      high: Math.round(HIGH * ratioOfScreen),
      sharpen: sharpened && amount > 0 ? { [channel.id]: amount } : 0,
    }),
    [channel.id, settings.width, place, sharpened, amount, ratioOfScreen],
  )
  const key = JSON.stringify(request)
  const known = found.find((one) => one.key === key)
  useEffect(() => {
    if (known) return
    let wanted = true
    void evaluation
      .windowOf(document, request, (done) => wanted && setRatio(done))
      .then((answer) => {
        if (!wanted) return
        setRatio(null)
        if (!('error' in answer)) setFound((before) => [{ key, picture: answer }, ...before].slice(0, 8))
        else if (!answer.cancelled) setFound((before) => [{ key, picture: answer.error }, ...before])
      })
    return () => {
      wanted = false
    }
  }, [evaluation, document, request, key, known])
  useEffect(() => () => void evaluation.endWindow(), [evaluation])
  // Until the new one is there the one before stays, where it was dragged to.
  const last = known ?? found[0]
  const size = sizeFor(settings.width, metresOf(document))
  const move = (x: number, y: number): void => setPlace([place[0] + x, place[1] + y])
  return (
    <Modal
      open
      wide
      onOpenChange={(open) => !open && onClose()}
      title={`As it will be at ${settings.width}`}
      about={`One texel a pixel${typeof size === 'string' ? '' : `, of ${size.width} × ${size.height}`}. Drag the picture, or use the arrows.`}
    >
      <div className="flex flex-col gap-3">
        <div className="flex flex-wrap items-center gap-2">
          <Choice
            label="Channel"
            value={channel.id}
            options={channels.map((one) => ({ value: one.id, word: one.title }))}
            onChange={setId}
          />
          <Segments
            label="Sharpening"
            value={sharpened && amount > 0 ? 'on' : 'off'}
            options={[
              { value: 'on', word: amount > 0 ? `sharpened by ${amount.toFixed(2)}` : 'not sharpened' },
              { value: 'off', word: 'as it comes' },
            ]}
            onChange={(value) => setSharpened(value === 'on')}
          />
          {amount === 0 && <span className="text-ink-soft">Set its sharpening under Make to see it here.</span>}
          <span className="flex-1" />
          <span role="status">
            {ratio !== null ? `${Math.round(ratio * 100)} %` : known ? '● as delivered' : 'Making …'}
          </span>
        </div>
        <div
          tabIndex={0}
          role="application"
          aria-label={`${channel.title} at ${settings.width}, from ${place[0]} across and ${place[1]} down`}
          className="relative cursor-grab touch-none overflow-hidden bg-view"
          style={{ width: WIDE, height: HIGH }}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId)
            grip.current = { x: event.clientX, y: event.clientY }
          }}
          onPointerMove={(event) =>
            grip.current && setShift([event.clientX - grip.current.x, event.clientY - grip.current.y])
          }
          onPointerUp={() => {
            grip.current = null
            move(-Math.round(shift[0] * ratioOfScreen), -Math.round(shift[1] * ratioOfScreen))
            setShift([0, 0])
          }}
          onKeyDown={(event) => {
            const step = event.shiftKey ? 256 : 32
            const by = ARROWS[event.key]
            if (!by) return
            event.preventDefault()
            move(by[0] * step, -by[1] * step)
          }}
        >
          {last && typeof last.picture === 'string' && (
            <p className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">■ {last.picture}</p>
          )}
          {last && typeof last.picture !== 'string' && (
            <Picture
              picture={last.picture}
              className="absolute max-w-none [image-rendering:pixelated]"
              style={{
                width: last.picture.width === 1 ? WIDE : last.picture.width / ratioOfScreen,
                height: last.picture.width === 1 ? HIGH : last.picture.height / ratioOfScreen,
                transform: `translate(${shift[0]}px, ${shift[1]}px)`,
              }}
              data-window={known ? 'there' : 'before'}
            />
          )}
        </div>
        <div className="flex justify-end gap-2">
          {amount === 0 && (
            <Button
              onClick={() => {
                view.setState({ tab: 'make' })
                onClose()
              }}
            >
              To the sharpening
            </Button>
          )}
          <Button variant="main" onClick={onClose}>
            Close
          </Button>
        </div>
      </div>
    </Modal>
  )
}
