import type { MaterialDocument } from '../document'
import { freeId } from './names'

/** Nodes of a frame, in the order of the document. */
export const framedNodes = ({ nodes }: MaterialDocument, frame: string): string[] =>
  Object.keys(nodes).filter((id) => nodes[id]!.frame === frame)

/** Puts nodes into a new frame; they leave those they were in. Gives its id. */
export function frameNodes(draft: MaterialDocument, ids: readonly string[], name: string): string {
  const frame = freeId('frame', (id) => Object.hasOwn(draft.frames, id))
  draft.frames[frame] = { name }
  for (const id of ids) if (draft.nodes[id]) draft.nodes[id].frame = frame
  dropEmptyFrames(draft)
  return frame
}

/** Takes nodes out of their frames. */
export function unframeNodes(draft: MaterialDocument, ids: readonly string[]): void {
  for (const id of ids) delete draft.nodes[id]?.frame
  dropEmptyFrames(draft)
}

/** Frames that no node stands in go. */
export function dropEmptyFrames(draft: MaterialDocument): void {
  const used = new Set(Object.values(draft.nodes).map(({ frame }) => frame))
  for (const id of Object.keys(draft.frames)) if (!used.has(id)) delete draft.frames[id]
}
