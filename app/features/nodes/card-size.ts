import type { AnyNode } from '#core/graph/define-node'

/** Pixels of a card at full zoom. */
export interface CardSize {
  readonly width: number
  readonly height: number
}

/** Heights of a card's head, of a line of ports, and of the title over where wires end. */
export const HEAD = 50
export const LINE = 17
export const TITLE = 26
/** The least a card is wide; longer words of ports make it wider. */
const LEAST = 156
const FOOT = 4
/** A letter of a port's name at 11 px at most, and the word for its type with all that is beside it. */
const LETTER = 6.2
const TYPE = 62

/** Room for a side's longest port; a side without ports takes none. */
function sideWidth(names: readonly string[], named: (name: string) => boolean): number {
  return Math.max(0, ...names.map((name) => TYPE + (named(name) ? LETTER * name.length : 0)))
}

/** Size of a node's card; of one that is not known, room for its name. */
export function cardSize(node: AnyNode | undefined): CardSize {
  const [inputs, outputs] = [Object.keys(node?.inputs ?? {}), Object.keys(node?.outputs ?? {})]
  const words = sideWidth(inputs, () => true) + sideWidth(outputs, (name) => name !== 'result')
  return {
    width: Math.max(LEAST, Math.ceil(words)),
    height: HEAD + LINE * Math.max(inputs.length, outputs.length, 1) + (node ? FOOT : 0),
  }
}

/** Size of the card where wires end, or begin, in so many ports. */
export const fixedCardSize = (ports: number): CardSize => ({ width: LEAST, height: TITLE + LINE * ports + FOOT })
