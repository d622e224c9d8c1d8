import type { AnyNode } from './define-node'

/** What people read in place of an identifier: its own title, or its words: "cropFrom" is "Crop from". */
export function titleOf(name: string, { title }: { readonly title?: string } = {}): string {
  if (title !== undefined) return title
  if (name === 'id') return 'ID'
  return name.charAt(0).toUpperCase() + name.slice(1).replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)
}

/** The title of a node's port. */
export const portTitle = (node: AnyNode | undefined, side: 'inputs' | 'outputs', port: string): string =>
  titleOf(port, node?.[side][port])

/** What a port carries, in a word. */
export const typeTitle = (type: string): string => (type === 'id' ? 'ID' : type)
