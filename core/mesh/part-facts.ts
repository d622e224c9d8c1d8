import type { PartFacts } from '../document/domain'
import type { MeshSummary } from './mesh-summary'

interface Given extends Pick<PartFacts, 'mesh' | 'part' | 'uvSet' | 'udim' | 'data' | 'missed' | 'baked'> {
  readonly summary: Pick<MeshSummary, 'box' | 'parts'>
  /** What the part is called beside others. */
  readonly name: string
}

/** What a material on a part may know of it. */
export function partFactsOf({ summary, name, ...given }: Given): PartFacts {
  const own = summary.parts[given.part]!
  const box = ({ min, max }: MeshSummary['box']): PartFacts['box'] => ({ min: cornerOf(min), max: cornerOf(max) })
  return {
    ...{ name, ...given },
    metres: own.metresPerUnit[given.uvSet] ?? own.metresPerUnit[0] ?? 1,
    box: box(own.box),
    modelBox: box(summary.box),
  }
}

const cornerOf = ([x, y, z]: readonly number[]): [number, number, number] => [x!, y!, z!]
