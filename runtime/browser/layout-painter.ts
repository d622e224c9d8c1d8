import { layoutOf } from '#core/mesh/layout'
import type { Layout } from '#core/mesh/layout'
import type { LayoutProblemKind } from '#core/mesh/layout-facts'
import type { Mesh, MeshPart } from '#core/mesh/mesh'
import { ACROSS, OUTSIDE } from '#core/mesh/triangle-measures'

/** What the islands of a layout are filled with. */
export const LAYOUT_MODES = ['islands', 'density', 'stretch', 'checker', 'data'] as const
export type LayoutMode = (typeof LAYOUT_MODES)[number]

/** What of UV space is painted: the place at the upper left, and pixels a UV unit. */
export interface LayoutView {
  readonly left: number
  readonly top: number
  readonly scale: number
}

export interface PaintRequest {
  readonly mode: LayoutMode
  readonly view: LayoutView
  readonly width: number
  readonly height: number
  /** Texels a side that it is baked at, and how many are filled around islands; 0 paints no padding. */
  readonly size: number
  readonly padding: number
  /** Pictures of baked data, by UDIM number. */
  readonly pictures: ReadonlyMap<number, ImageBitmap>
  /** Pictures of where the high twin was not met, laid over those. */
  readonly missed: ReadonlyMap<number, ImageBitmap>
  /** What is pointed out. */
  readonly shown: LayoutProblemKind | null
}

/** Greys of islands, so that neighbours are told apart; hatches and marks are loud. */
const GREYS = ['#9b9b9b', '#a6a6a6', '#919191', '#b0b0b0']
const GROUND = '#636363'
const OUTLINE = '#f2f2f2'
const LOUD = '#e000ff'
const PADDING = 'rgba(227, 154, 59, 0.55)'
/** From too little to too much; the middle is as it should be. */
const SCALE = ['#2b5c8f', '#5b87ad', '#8ba6bb', '#a9a9a9', '#c9a06c', '#c97f2f', '#b4530e']
/** Squares of the checker along a tile. */
const CHECKS = 32
/** More triangles than this are filled pixel by pixel: a path of so many takes seconds. */
const MANY = 20_000
/** Pixels that edges of triangles must be apart to be drawn. */
const WIRE = 7

/** Paints how a part lies in a UV set. */
export class LayoutPainter {
  readonly layout: Layout
  private overlapping: Set<number> | null = null

  constructor(mesh: Mesh, part: MeshPart, uvSet: number) {
    this.layout = layoutOf(mesh, part, uvSet)
  }

  paint(context: OffscreenCanvasRenderingContext2D, request: PaintRequest): void {
    const { view, width, height, mode, padding, size } = request
    context.clearRect(0, 0, width, height)
    this.ground(context, request)
    if (padding > 0) this.borders(context, view, PADDING, (2 * padding * view.scale) / size)
    if (mode === 'data' && request.pictures.size > 0) {
      this.pictures(context, view, request.pictures)
      this.pictures(context, view, request.missed)
    } else this.fill(context, request)
    this.wires(context, request)
    this.borders(context, view, OUTLINE, 1.5)
    if (request.shown) this.point(context, request, request.shown)
  }

  /** Tiles that are used, and the first always. */
  private ground(context: OffscreenCanvasRenderingContext2D, { view }: PaintRequest): void {
    for (const udim of new Set([1001, ...this.layout.tiles])) {
      const [x, y] = placeOf(udim, view)
      context.fillStyle = GROUND
      context.fillRect(x, y, view.scale, view.scale)
      if (this.layout.tiles.length > 1) {
        context.fillStyle = OUTLINE
        context.font = '12px sans-serif'
        context.fillText(String(udim), x + 6, y + 16)
      }
    }
  }

  private pictures(
    context: OffscreenCanvasRenderingContext2D,
    view: LayoutView,
    pictures: PaintRequest['pictures'],
  ): void {
    context.imageSmoothingEnabled = true
    for (const [udim, picture] of pictures) {
      const [x, y] = placeOf(udim, view)
      context.drawImage(picture, x, y, view.scale, view.scale)
    }
  }

  private fill(context: OffscreenCanvasRenderingContext2D, request: PaintRequest): void {
    const { mode, view, width, height } = request
    const { islands, density } = this.layout
    const seen = this.seen(request)
    if (mode === 'checker') {
      // Squares everywhere, kept where triangles are.
      const squares = new OffscreenCanvas(width, height)
      this.checker(squares.getContext('2d')!, view)
      const cut = squares.getContext('2d')!
      cut.globalCompositeOperation = 'destination-in'
      cut.drawImage(
        this.filled(request, seen, () => '#ffffff'),
        0,
        0,
      )
      context.drawImage(squares, 0, 0)
      return
    }
    const colourOf = (t: number): string => {
      if (mode === 'density')
        return onScale(Math.log2((this.layout.measures.density[t]! || 1e-9) / (density.mean || 1)) / 2)
      if (mode === 'stretch') return onScale(Math.log2(this.layout.measures.stretch[t]! || 1) / 2)
      return GREYS[islands.of[t]! % GREYS.length]!
    }
    context.drawImage(this.filled(request, seen, colourOf), 0, 0)
  }

  private checker(context: OffscreenCanvasRenderingContext2D, view: LayoutView): void {
    for (const udim of new Set([1001, ...this.layout.tiles])) {
      const [x, y] = placeOf(udim, view)
      const side = view.scale / CHECKS
      context.fillStyle = '#bdbdbd'
      context.fillRect(x, y, view.scale, view.scale)
      context.fillStyle = '#4a4a4a'
      for (let j = 0; j < CHECKS; j++)
        for (let i = j % 2; i < CHECKS; i += 2) context.fillRect(x + i * side, y + j * side, side, side)
    }
  }

  /** Triangles of which anything may be in view. */
  private seen({ view: { left, top, scale }, width, height }: PaintRequest): number[] {
    const [right, bottom] = [left + width / scale, top + height / scale]
    const c = this.layout.corners
    const seen: number[] = []
    for (let t = 0, at = 0; at < c.length; t++, at += 6)
      if (
        Math.max(c[at]!, c[at + 2]!, c[at + 4]!) >= left &&
        Math.min(c[at]!, c[at + 2]!, c[at + 4]!) <= right &&
        Math.max(c[at + 1]!, c[at + 3]!, c[at + 5]!) >= top &&
        Math.min(c[at + 1]!, c[at + 3]!, c[at + 5]!) <= bottom
      )
        seen.push(t)
    return seen
  }

  /** Triangles in their colours on nothing: as paths, or pixel by pixel where there are many. */
  private filled(
    { view, width, height }: PaintRequest,
    triangles: readonly number[],
    colourOf: (t: number) => string,
  ): OffscreenCanvas {
    const canvas = new OffscreenCanvas(width, height)
    const context = canvas.getContext('2d')!
    if (triangles.length > MANY) {
      const image = context.createImageData(width, height)
      this.fillPixels(image, view, triangles, colourOf)
      context.putImageData(image, 0, 0)
      return canvas
    }
    const buckets = new Map<string, number[]>()
    for (const t of triangles) {
      const colour = colourOf(t)
      const list = buckets.get(colour)
      if (list) list.push(t)
      else buckets.set(colour, [t])
    }
    for (const [colour, own] of buckets) {
      context.fillStyle = context.strokeStyle = colour
      context.lineWidth = 0.5
      context.beginPath()
      for (const t of own) this.trace(context, view, t)
      context.fill()
      // Hairlines between triangles of one colour.
      context.stroke()
    }
    return canvas
  }

  /** Sets the pixels whose middle lies in a triangle, and that in which its own middle lies. */
  private fillPixels(
    { data, width, height }: ImageData,
    { left, top, scale }: LayoutView,
    triangles: readonly number[],
    colourOf: (t: number) => string,
  ): void {
    const pixels = new Uint32Array(data.buffer)
    const known = new Map<string, number>()
    const c = this.layout.corners
    for (const t of triangles) {
      const colour = colourOf(t)
      let value = known.get(colour)
      if (value === undefined) known.set(colour, (value = pixelOf(colour)))
      const at = t * 6
      const [ax, ay] = [(c[at]! - left) * scale - 0.5, (c[at + 1]! - top) * scale - 0.5]
      const [bx, by] = [(c[at + 2]! - left) * scale - 0.5, (c[at + 3]! - top) * scale - 0.5]
      const [cx, cy] = [(c[at + 4]! - left) * scale - 0.5, (c[at + 5]! - top) * scale - 0.5]
      const [mx, my] = [Math.round((ax + bx + cx) / 3), Math.round((ay + by + cy) / 3)]
      if (mx >= 0 && mx < width && my >= 0 && my < height) pixels[my * width + mx] = value
      const lastX = Math.min(width - 1, Math.floor(Math.max(ax, bx, cx)))
      const lastY = Math.min(height - 1, Math.floor(Math.max(ay, by, cy)))
      const turn = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) < 0 ? -1 : 1
      for (let y = Math.max(0, Math.ceil(Math.min(ay, by, cy))); y <= lastY; y++)
        for (let x = Math.max(0, Math.ceil(Math.min(ax, bx, cx))); x <= lastX; x++)
          if (
            turn * ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) >= 0 &&
            turn * ((cx - bx) * (y - by) - (cy - by) * (x - bx)) >= 0 &&
            turn * ((ax - cx) * (y - cy) - (ay - cy) * (x - cx)) >= 0
          )
            pixels[y * width + x] = value
    }
  }

  private trace(context: OffscreenCanvasRenderingContext2D, { left, top, scale }: LayoutView, t: number): void {
    const c = this.layout.corners
    const at = t * 6
    context.moveTo((c[at]! - left) * scale, (c[at + 1]! - top) * scale)
    context.lineTo((c[at + 2]! - left) * scale, (c[at + 3]! - top) * scale)
    context.lineTo((c[at + 4]! - left) * scale, (c[at + 5]! - top) * scale)
    context.closePath()
  }

  /** Edges of triangles, where they are far enough apart to be told. */
  private wires(context: OffscreenCanvasRenderingContext2D, request: PaintRequest): void {
    const { view } = request
    const count = this.layout.corners.length / 6
    const side = Math.sqrt((2 * this.layout.usedArea) / Math.max(1, count)) * view.scale
    if (side < WIRE) return
    const seen = this.seen(request)
    if (seen.length > MANY) return
    context.strokeStyle = 'rgba(255, 255, 255, 0.25)'
    context.lineWidth = 0.5
    context.beginPath()
    for (const t of seen) this.trace(context, view, t)
    context.stroke()
  }

  private borders(
    context: OffscreenCanvasRenderingContext2D,
    { left, top, scale }: LayoutView,
    colour: string,
    wide: number,
  ): void {
    const { points } = this.layout.islands.borders
    context.strokeStyle = colour
    context.lineWidth = wide
    context.lineCap = 'round'
    context.beginPath()
    for (let e = 0; e < points.length; e += 4) {
      context.moveTo((points[e]! - left) * scale, (points[e + 1]! - top) * scale)
      context.lineTo((points[e + 2]! - left) * scale, (points[e + 3]! - top) * scale)
    }
    context.stroke()
  }

  /** Points out triangles, or islands that are too near to others. */
  private point(context: OffscreenCanvasRenderingContext2D, request: PaintRequest, what: LayoutProblemKind): void {
    const { view } = request
    const { layout } = this
    const { islands } = layout
    const { uvArea, tile } = this.layout.measures
    const nearest = what === 'spacing' ? Math.min(...layout.spacing.nearest.subarray(0, 100_000)) : 0
    const isMeant = (t: number): boolean => {
      switch (what) {
        case 'overlaps':
          return (this.overlapping ??= new Set(this.layout.overlaps.pairs)).has(t)
        case 'mirrored':
          return uvArea[t]! > 0
        case 'collapsed':
          return uvArea[t] === 0
        case 'across':
          return tile[t] === ACROSS
        case 'outside':
          return tile[t] === OUTSIDE
        case 'spacing':
          return layout.spacing.nearest[islands.of[t]!]! <= nearest * 1.01
        case 'border':
          return layout.spacing.toBorder[islands.of[t]!]! <= 0
      }
    }
    context.fillStyle = LOUD
    context.strokeStyle = LOUD
    const meant = this.seen(request).filter(isMeant)
    context.globalAlpha = 0.7
    if (meant.length > MANY) {
      context.drawImage(
        this.filled(request, meant, () => LOUD),
        0,
        0,
      )
      context.globalAlpha = 1
      return
    }
    context.beginPath()
    for (const t of meant) this.trace(context, view, t)
    context.fill()
    context.globalAlpha = 1
    context.lineWidth = 1.5
    context.stroke()
  }
}

const placeOf = (udim: number, { left, top, scale }: LayoutView): [number, number] => [
  (((udim - 1001) % 10) - left) * scale,
  (-Math.floor((udim - 1001) / 10) - top) * scale,
]

/** A colour as a pixel of ImageData: red in the lowest byte, opaque. */
function pixelOf(colour: string): number {
  const [r, g, b] = [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16)) as [number, number, number]
  return ((255 << 24) | (b << 16) | (g << 8) | r) >>> 0
}

/** A colour for −1 (too little) to 1 (too much). */
const onScale = (value: number): string =>
  SCALE[Math.min(SCALE.length - 1, Math.max(0, Math.round(((value + 1) / 2) * (SCALE.length - 1))))]!
