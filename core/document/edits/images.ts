import type { MaterialDocument } from '../document'

/** Does something to every holder of a value in JSON, and the key it has there. */
function forEachPlace(
  holder: Record<string, unknown>,
  value: unknown,
  act: (holder: Record<string, unknown>, key: string) => void,
): void {
  for (const [key, one] of Object.entries(holder))
    if (one === value) act(holder, key)
    else if (one !== null && typeof one === 'object') forEachPlace(one as Record<string, unknown>, value, act)
}

/** In how many places a document names an image: nodes, dials and their presets. */
export function imagePlaces(document: MaterialDocument, image: string): number {
  let count = 0
  forEachPlace({ ...document }, image, () => count++)
  return count
}

/** Puts one image in another's place wherever a document names it. */
export function replaceImage(draft: MaterialDocument, from: string, to: string): void {
  forEachPlace(draft as unknown as Record<string, unknown>, from, (holder, key) => (holder[key] = to))
}
