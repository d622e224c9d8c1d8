import { Plus, X } from 'lucide-react'
import { Fragment, useEffect, useState } from 'react'
import { Link } from 'react-router'
import { runChecks } from '#core/checks/check'
import idsWithoutMaterial from '#core/checks/rules/ids-without-material'
import setCollisions from '#core/checks/rules/set-collisions'
import type { CheckedSet } from '#core/checks/subject'
import { subjectOfSet } from '#core/checks/subject'
import type { IdKind } from '#core/picked-ids'
import { bareIds, bareKind, idsInWords } from '#core/mesh/bare-ids'
import type { Placed } from '#core/mesh/file-sets'
import { fileSets, ownerOf } from '#core/mesh/file-sets'
import { meshAddress } from '../../session/model/addresses'
import { modelWorker } from '../../session/model/model-worker'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { ToolButton } from '../../ui/tool-button'
import { DeliverParts } from './deliver-parts'
import { IdPicker } from './id-picker'
import { tilesOfPart, useModel } from './model-context'
import { useIds } from './use-ids'

/** In place of a material’s id: one that is to be made. */
const NEW = 'new'

const ROW = 'grid grid-cols-[8.5rem_minmax(0,1fr)_minmax(0,1fr)_5.5rem] items-center gap-2'

/** Which material lies on which part and on which IDs of it, which parts share their files, and the maps of all in one go. */
export function PartMaterials() {
  const { model, placed, view } = useModel()
  return (
    <div className="grid gap-3 p-3">
      {placed.materials.length === 0 && (
        <p className="text-ink-soft">
          No material of this project is for parts yet. Choose “a new material” for a part, or add one that is for parts{' '}
          <Link to={`/projects/${model.project.id}`} className="text-accent-ink underline">
            on the project’s page
          </Link>
          .
        </p>
      )}
      <ul aria-label="Materials of the parts" className="grid gap-1.5">
        {model.summary.parts.map((_, part) => (
          <Fragment key={part}>
            <PartRow part={part} />
            {placed.onIds
              .filter((one) => one.part === part)
              .map((one) => (
                <IdsRow key={one.slot} {...one} />
              ))}
            <LayerUp part={part} />
            {view.picks?.part === part && <IdPicker />}
            <Bare part={part} />
          </Fragment>
        ))}
      </ul>
      <Collisions />
      <DeliverParts />
    </div>
  )
}

/** All of a part: its material, and whose files its maps come into. */
function PartRow({ part }: { part: number }) {
  const { model, placed, send, setView } = useModel()
  const { name } = model.summary.parts[part]!
  const lies = placed.onPart[part]
  const owners = model.summary.parts.flatMap(({ name: word }, other) =>
    other !== part && ownerOf(other, model.joins) === other
      ? [{ value: String(other), word: `in the files of ${word}` }]
      : [],
  )
  const guests = model.summary.parts.filter((_, other) => other !== part && ownerOf(other, model.joins) === part)
  const own = guests.length > 0 ? `its own files, with ${guests.map(({ name: word }) => word).join(', ')}` : ''
  return (
    <li className={ROW}>
      <button
        type="button"
        className="truncate text-left hover:underline"
        title={name}
        onClick={() => setView({ part, problem: null })}
      >
        {name}
      </button>
      <Choice
        label={`Material on ${name}`}
        value={lies ?? ''}
        options={[
          { value: '', word: 'no material' },
          ...placed.materials.map(({ id, name: word }) => ({ value: id, word })),
          { value: NEW, word: 'a new material' },
        ]}
        onChange={(id) =>
          send(id === NEW ? { intent: 'place-new', part } : { intent: 'place', part, material: id === '' ? null : id })
        }
      />
      {owners.length === 0 ? (
        <span className="truncate text-ink-soft">{own}</span>
      ) : (
        <Choice
          label={`Files of ${name}`}
          value={String(ownerOf(part, model.joins))}
          options={[{ value: String(part), word: own || 'files of its own' }, ...owners]}
          onChange={(other) => send({ intent: 'share', part, with: Number(other) })}
        />
      )}
      <span className="flex items-center justify-end gap-1">
        <ToolButton
          icon={Plus}
          word={`Another material on IDs of ${name}`}
          tip="Puts another material on some of its pieces, islands or vertex colours"
          onClick={() =>
            setView({ part, side: 'model', isolated: true, picks: { part, kind: 'piece-id', numbers: [] } })
          }
        />
        {lies ? (
          <Open material={lies} word={`Open the material on ${name}`} />
        ) : (
          <span className="min-w-9 whitespace-nowrap text-note text-ink-soft">○ none</span>
        )}
      </span>
    </li>
  )
}

const Open = ({ material, word }: { material: string; word: string }) => (
  <Link to={`/documents/${material}`} className="w-9 text-accent-ink underline" aria-label={word}>
    Open
  </Link>
)

/** A material on some IDs of a part. */
function IdsRow({ part, ids, material }: { part: number; ids: { kind: IdKind; numbers: number[] }; material: string }) {
  const { model, placed, send } = useModel()
  const words = idsInWords(ids.kind, ids.numbers)
  const where = `${words} of ${model.summary.parts[part]!.name}`
  return (
    <li className={ROW}>
      <span className="truncate pl-3 text-ink-soft" title={words}>
        {words}
      </span>
      <Choice
        label={`Material on ${where}`}
        value={material}
        options={placed.materials.map(({ id, name: word }) => ({ value: id, word }))}
        onChange={(id) => send({ intent: 'place', part, ids, material: id })}
      />
      <span />
      <span className="flex items-center justify-end gap-1">
        <ToolButton
          icon={X}
          word={`No other material on ${where}`}
          onClick={() => send({ intent: 'place', part, ids, material: null })}
        />
        <Open material={material} word={`Open the material on ${where}`} />
      </span>
    </li>
  )
}

/** One material in place of several on a part. */
function LayerUp({ part }: { part: number }) {
  const { model, placed, send } = useModel()
  const own = placedOn(placed).filter((one) => one.part === part)
  if (own.length < 2) return null
  return (
    <li className="flex items-center gap-2 pl-3">
      <Button
        title="One material with a group of layers for each of these, masked by their IDs, to lay more on top of all. It takes their place here; they stay in the project."
        onClick={() => send({ intent: 'layer-up', part })}
      >
        Put together in layers
      </Button>
      <span className="min-w-0 truncate text-note text-ink-soft">
        makes one material of the {own.length} on {model.summary.parts[part]!.name}
      </span>
    </li>
  )
}

const placedOn = ({ onPart, onIds }: ReturnType<typeof useModel>['placed']): Placed[] => [
  ...Object.keys(onPart).map((part) => ({ part: Number(part) })),
  ...onIds,
]

/** IDs that have no material, of a part that has one on others. */
function Bare({ part }: { part: number }) {
  const { model, placed } = useModel()
  const own = placedOn(placed)
  const kind = bareKind(own, part)
  const all = useIds(part, kind)
  const bare = all && bareIds(own, part, all)
  return (
    bare && (
      <li className="pl-3 text-note">
        <Told set={{ bare: [{ part: model.summary.parts[part]!.name, ...bare }] }} />
      </li>
    )
  )
}

/** What rules say of the file sets. */
function Told({ set }: { set: Partial<CheckedSet> }) {
  const subject = subjectOfSet({ parts: [], byIds: 0, collisions: [], bare: [], ...set })
  return runChecks(SET_RULES, subject).map(({ message, fix }) => (
    <p key={message} role="status" title={fix}>
      ▲ {message}
    </p>
  ))
}
const SET_RULES = [setCollisions, idsWithoutMaterial]

/** Parts that share files and lie over one another in UVs. */
function Collisions() {
  const { model, placed } = useModel()
  const address = meshAddress(model, 'low')!
  const { uvSet } = model.settings
  const dressed = [...new Set(placedOn(placed).map(({ part }) => part))]
  const sets = fileSets(
    dressed.map((part) => ({ part })),
    model.joins,
    (part) => tilesOfPart(model, part),
  )
  const asked = JSON.stringify(
    sets.flatMap(({ udim, placed: own }) => (own.length > 1 ? [[udim ?? null, own.map(({ part }) => part)]] : [])),
  )
  const [found, setFound] = useState<readonly { readonly parts: readonly [number, number]; readonly pairs: number }[]>(
    [],
  )
  useEffect(() => {
    let wanted = true
    const find = async (): Promise<void> => {
      const all = []
      for (const [udim, parts] of JSON.parse(asked) as [number | null, number[]][])
        all.push(...(await modelWorker().collisionsOf(address, uvSet, udim ?? undefined, parts)))
      if (wanted) setFound(all)
    }
    // The view of the model says what cannot be read.
    find().catch(() => {})
    return () => {
      wanted = false
    }
  }, [address, uvSet, asked])
  const nameOf = (part: number): string => model.summary.parts[part]?.name ?? ''
  const collisions = found.map(({ parts: [a, b], pairs }) => ({ parts: [nameOf(a), nameOf(b)] as const, pairs }))
  return <Told set={{ collisions }} />
}
