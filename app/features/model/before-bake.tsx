import { twinParts } from '#core/mesh/bake-part'
import type { LayoutChange } from '#core/mesh/layout-change'
import type { LayoutProblemKind } from '#core/mesh/layout-facts'
import { layoutFactsAt, layoutProblems, neededSpacing } from '#core/mesh/layout-facts'
import { Button } from '../../ui/button'
import { counted } from '../../ui/words'
import { useModel } from './model-context'

type Cure = LayoutChange['cure']

/** What each problem does to a bake, and what cures it. */
const ABOUT: Record<LayoutProblemKind, { readonly why: string; readonly cures: readonly Cure[] }> = {
  overlaps: {
    why: 'All of them would receive the same texels. Move what repeats by a tile, or give each its own room.',
    cures: ['shift', 'unwrap'],
  },
  collapsed: { why: 'They have no texels of their own: nothing can be baked on them.', cures: ['unwrap'] },
  across: { why: 'A triangle is baked in one tile only.', cures: ['repack', 'unwrap'] },
  outside: {
    why: 'They are baked nowhere. If they repeat the first tile, say so in the settings.',
    cures: ['repack', 'unwrap'],
  },
  mirrored: {
    why: 'Fine where a form is mirrored on purpose; text reads backwards, and not every renderer lights it right.',
    cures: ['unwrap'],
  },
  spacing: {
    why: 'Neighbours bleed into each other at a distance, where mips mix what lies between.',
    cures: ['repack', 'unwrap'],
  },
  border: { why: 'What lies beyond the border bleeds in when the tile is shown small.', cures: ['repack'] },
}

const CURES: Record<Cure, string> = { shift: 'Move by a tile', repack: 'Repack', unwrap: 'Unwrap by angle' }

/** What is wrong with the model's layout, each with the place and what cures it; and what is right. */
export function BeforeBake() {
  const { model, runs, view, setView, send } = useModel()
  const { summary, settings, high } = model
  const { size, uvSet, outside } = settings
  const laying = runs.some(
    ({ request, state }) => request.do === 'lay out' && (state === 'running' || state === 'queued'),
  )
  const cure = (cure: Cure, part: number): void => {
    send({
      intent: 'lay-out',
      change: { cure, parts: [part], uvSet, size, spacing: Math.ceil(neededSpacing(size)) },
    })
  }
  const show = (part: number, kind: LayoutProblemKind): void =>
    setView({ part, problem: kind, kind: null, side: 'layout', layout: 'islands' })
  const found = summary.parts.flatMap((part, i) => {
    const facts = part.layouts[uvSet]
    return facts
      ? layoutProblems(layoutFactsAt(facts, size), size, { outside }).map((problem) => ({
          ...problem,
          part: i,
          name: part.name,
        }))
      : []
  })
  const lacking = summary.parts.flatMap((part, i) => (part.layouts[uvSet] ? [] : [{ part: i, name: part.name }]))
  const matched = high ? summary.parts.filter((part) => twinParts(high.summary.parts, part).length > 0).length : 0
  const failed = runs.find(({ request }) => request.do === 'lay out')
  return (
    <ul aria-label="Before you bake" className="divide-y divide-rule">
      {laying && (
        <Line mark="◐" words="The layout is being changed" why="What is baked becomes stale; settings stay." />
      )}
      {failed?.state === 'failed' && (
        <Line mark="■" words={failed.error ?? 'The layout could not be changed.'} why="The layout is as it was." />
      )}
      {lacking.map(({ part, name }) => (
        <Line
          key={`lacking ${part}`}
          mark="■"
          of={name}
          words={uvSet === 0 ? 'has no UVs' : `has no UV set ${uvSet + 1}`}
          why="Nothing can be baked into it."
        >
          <Button disabled={laying} onClick={() => cure('unwrap', part)} aria-label={`Unwrap by angle: ${name}`}>
            Unwrap by angle
          </Button>
        </Line>
      ))}
      {found.map(({ part, name, kind, words }) => (
        <Line
          key={`${part} ${kind}`}
          mark={kind === 'mirrored' ? '○' : '▲'}
          of={name}
          words={words}
          why={ABOUT[kind].why}
        >
          <Button
            aria-pressed={view.problem === kind && view.part === part}
            onClick={() => show(part, kind)}
            aria-label={`Show: ${words} of ${name}`}
          >
            Show
          </Button>
          {ABOUT[kind].cures.map((one) => (
            <Button key={one} disabled={laying} onClick={() => cure(one, part)} aria-label={`${CURES[one]}: ${name}`}>
              {CURES[one]}
            </Button>
          ))}
        </Line>
      ))}
      {found.length === 0 && lacking.length === 0 && (
        <Line
          mark="●"
          words="The layout has nothing to cure"
          why={`Islands keep ${neededSpacing(size)} texels apart at ${size}; none lies over another.`}
        />
      )}
      {!model.asCame && (
        <Line mark="●" words="The layout was changed here" why="Models that are downloaded have it so.">
          <Button disabled={laying} onClick={() => send({ intent: 'lay-out-as-came' })}>
            Restore the file’s layout
          </Button>
        </Line>
      )}
      {summary.uvSets > 1 && (
        <Line
          mark="○"
          words={`UV set ${uvSet + 1} of ${summary.uvSets} is baked into`}
          why="Sets beyond the first are often for light."
        >
          {Array.from({ length: summary.uvSets }, (_, set) => set).map(
            (set) =>
              set !== uvSet && (
                <Button key={set} onClick={() => send({ intent: 'settings', settings: { uvSet: set } })}>
                  Use set {set + 1}
                </Button>
              ),
          )}
        </Line>
      )}
      <Line
        mark="●"
        words="Triangles, their order and tangents were fixed when it came in"
        why={`${counted(summary.triangles, 'triangle')}, ${counted(summary.vertices, 'vertex', 'vertices')}. The model that is delivered is this very one.`}
      />
      {high ? (
        <Line
          mark={matched === summary.parts.length ? '●' : '▲'}
          of={high.name}
          words={
            matched === 0
              ? 'is met by every part: no name matches'
              : `is matched by part name, ${matched} of ${summary.parts.length}`
          }
          why={
            matched === 0 || matched === summary.parts.length
              ? 'The high twin: what stands on it is baked onto the model.'
              : 'Parts without a twin of their name meet all of the high model.'
          }
        />
      ) : (
        <Line
          mark="○"
          words="There is no high twin"
          why="Normals are baked from the model itself; Height needs a twin."
        >
          <Button onClick={() => setView({ tab: 'files' })}>Files</Button>
        </Line>
      )}
      {summary.notes.map((note) => (
        <Line key={note} mark="○" words={note} why="Repaired or left out when the file was read." />
      ))}
    </ul>
  )
}

function Line({
  mark,
  of,
  words,
  why,
  children,
}: {
  mark: string
  of?: string
  words: string
  why: string
  children?: React.ReactNode
}) {
  return (
    <li className="flex items-center gap-3 px-3 py-2">
      <span aria-hidden className="w-3 shrink-0 text-center">
        {mark}
      </span>
      <span className="min-w-0 flex-1">
        {of && <strong>{of}: </strong>}
        {words}
        <span className="block text-note text-ink-soft">{why}</span>
      </span>
      <span className="flex shrink-0 flex-wrap justify-end gap-1">{children}</span>
    </li>
  )
}
