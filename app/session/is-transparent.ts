/** Pixels a side that a picture is looked at with, and the alpha below which something is seen through it. */
const LOOKED = 256
const OPAQUE = 250

/** Whether a picture lets something through; null where this browser cannot read the file. */
export async function isTransparent(file: File): Promise<boolean | null> {
  try {
    const whole = await createImageBitmap(file)
    const scale = Math.min(1, LOOKED / Math.max(whole.width, whole.height))
    const [width, height] = [whole.width, whole.height].map((side) => Math.max(1, Math.round(side * scale))) as [
      number,
      number,
    ]
    const context = new OffscreenCanvas(width, height).getContext('2d')!
    context.drawImage(whole, 0, 0, width, height)
    whole.close()
    const { data } = context.getImageData(0, 0, width, height)
    for (let i = 3; i < data.length; i += 4) if (data[i]! < OPAQUE) return true
    return false
  } catch {
    return null
  }
}
