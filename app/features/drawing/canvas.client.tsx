import type Konva from 'konva'
import { useEffect, useRef, useState } from 'react'
import { Ellipse, Image as Picture, Layer, Rect, Stage, Text, Transformer } from 'react-konva'
import type { Drawing, DrawingItem } from '#core/drawing/drawing'

/** The letters that ship with the application. */
const FAMILY = 'Public Sans Variable'

/** The accent, which stands out on light and dark drawings. */
const HANDLES = '#b4690e'

interface CanvasProps {
  readonly drawing: Drawing
  readonly chosen: string | null
  /** Pixels of the screen that it may take. */
  readonly room: { readonly width: number; readonly height: number }
  onChoose(id: string | null): void
  onChange(item: DrawingItem): void
  /** Is given a way to make the picture. */
  onReady(makePicture: () => Promise<Blob>): void
}

/** A drawing to move, scale and turn things on. */
export default function Canvas({ drawing, chosen, room, onChoose, onChange, onReady }: CanvasProps) {
  const layer = useRef<Konva.Layer>(null)
  const handles = useRef<Konva.Transformer>(null)
  const [hasFont, setHasFont] = useState(false)
  const scale = Math.min(room.width / drawing.width, room.height / drawing.height)
  useEffect(() => {
    void Promise.all([400, 700].map((weight) => document.fonts.load(`${weight} 32px "${FAMILY}"`))).then(() =>
      setHasFont(true),
    )
  }, [])
  useEffect(() => {
    const node = chosen === null ? undefined : layer.current?.findOne(`#${chosen}`)
    handles.current?.nodes(node ? [node] : [])
  }, [chosen, drawing, hasFont])
  useEffect(() => {
    onReady(async () => {
      // The drawing alone, at its own size, whatever the screen's.
      const { x, y, width, height } = { x: 0, y: 0, width: drawing.width * scale, height: drawing.height * scale }
      const blob = await layer.current!.toBlob({ x, y, width, height, pixelRatio: 1 / scale, mimeType: 'image/png' })
      return blob as Blob
    })
  }, [onReady, drawing, scale])
  return (
    <Stage
      width={drawing.width * scale}
      height={drawing.height * scale}
      scaleX={scale}
      scaleY={scale}
      className="bg-[repeating-conic-gradient(#8f8f8f_0_25%,#7b7b7b_0_50%)] bg-[length:16px_16px] outline-1 outline-white/60"
      onPointerDown={(event) => event.target === event.target.getStage() && onChoose(null)}
    >
      <Layer ref={layer}>
        {drawing.ground !== null && (
          <Rect width={drawing.width} height={drawing.height} fill={drawing.ground} listening={false} />
        )}
        {hasFont &&
          drawing.items.map((item) => (
            <Thing key={item.id} item={item} onChoose={() => onChoose(item.id)} onChange={onChange} />
          ))}
      </Layer>
      <Layer>
        <Transformer
          ref={handles}
          flipEnabled={false}
          anchorSize={9}
          anchorStroke={HANDLES}
          borderStroke={HANDLES}
          ignoreStroke
        />
      </Layer>
    </Stage>
  )
}

function Thing({
  item,
  onChoose,
  onChange,
}: {
  item: DrawingItem
  onChoose(): void
  onChange(item: DrawingItem): void
}) {
  const picture = usePicture(item.kind === 'picture' ? item.source : null)
  const shared = {
    id: item.id,
    x: item.x,
    y: item.y,
    rotation: item.rotation,
    draggable: true,
    onPointerDown: onChoose,
    onDragEnd: ({ target }: Konva.KonvaEventObject<DragEvent>) => onChange({ ...item, x: target.x(), y: target.y() }),
    onTransformEnd: ({ target }: Konva.KonvaEventObject<Event>) => {
      // Scale becomes size, so that strokes and corners keep theirs.
      const [sx, sy] = [target.scaleX(), target.scaleY()]
      target.scale({ x: 1, y: 1 })
      const moved = { ...item, x: target.x(), y: target.y(), rotation: target.rotation() }
      onChange(
        moved.kind === 'text'
          ? { ...moved, size: Math.max(1, moved.size * sy) }
          : { ...moved, width: Math.max(1, moved.width * sx), height: Math.max(1, moved.height * sy) },
      )
    },
  }
  switch (item.kind) {
    case 'text':
      return (
        <Text
          {...shared}
          text={item.text}
          fontFamily={FAMILY}
          fontSize={item.size}
          fontStyle={item.bold ? '700' : '400'}
          letterSpacing={item.spacing}
          fill={item.fill}
        />
      )
    case 'rectangle':
      return <Rect {...shared} width={item.width} height={item.height} cornerRadius={item.corner} fill={item.fill} />
    case 'frame':
      return (
        <Rect
          {...shared}
          width={item.width}
          height={item.height}
          stroke={item.fill}
          strokeWidth={item.stroke}
          fillEnabled={false}
        />
      )
    case 'ellipse':
      return (
        <Ellipse
          {...shared}
          radiusX={item.width / 2}
          radiusY={item.height / 2}
          offsetX={-item.width / 2}
          offsetY={-item.height / 2}
          fill={item.fill}
        />
      )
    case 'picture':
      return picture ? <Picture {...shared} image={picture} width={item.width} height={item.height} /> : null
  }
}

function usePicture(source: string | null): HTMLImageElement | null {
  const [picture, setPicture] = useState<HTMLImageElement | null>(null)
  useEffect(() => {
    if (source === null) return
    const image = new Image()
    image.onload = () => setPicture(image)
    image.src = source
  }, [source])
  return picture
}
