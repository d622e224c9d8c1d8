import { Focus } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useEffect, useMemo, useRef, useState } from 'react'
import { Link, useFetcher } from 'react-router'
import type { Channel } from '#core/document/channels'
import { kindsRead } from '#core/graph/kinds-read'
import { registry } from '#core/nodes/registry.generated'
import { FIRST_TILE } from '#core/document/domain'
import type { PlacedMaterial, ProjectPart, ProjectParts } from '../../contracts/parts'
import type { MeshDataInfo } from '../../contracts/model'
import { useActions, useMaterial, usePlacement, useUndialled, useView } from '../../session/material'
import { modelWorker } from '../../session/model/model-worker'
import { meshAddress, meshDataAddress } from '../../session/model/addresses'
import { documentAt } from '../../session/revisions'
import { liesOn, partInWords, shownPart } from '../../session/placement'
import { Button, buttonClasses } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { ToolButton } from '../../ui/tool-button'
import type { StageRenderer } from './stage-renderer.client'
import type { OnModel } from './on-model'
import { UV_SETS } from './on-model'
import { useOtherParts } from './use-other-parts'

/** Names of checkers in UV sets, among those of mesh data. */
const CHECKERS: readonly string[] = Array.from({ length: UV_SETS }, (_, i) => `checker-${i + 1}`)

const keyOf = (model: string, { part, udim }: OnModel): string =>
  [model, part, ...(udim === undefined ? [] : [udim])].join(' ')

/** Places of a model, in the order of its parts. */
const placesOf = ({ parts }: ProjectParts): OnModel[] => parts.map(({ part, udim }) => ({ part, udim }))

/** The part that a material for parts is shown on, and which materials lie where. */
export function PartOnStage({ renderer, shows }: { renderer: StageRenderer; shows: boolean }) {
  const { id, project } = useMaterial()
  const state = usePlacement((one) => one)
  const shown = shownPart(state, id)
  const [problem, setProblem] = useState<string | null>(null)
  const model = shown?.model.id ?? null
  const mesh = shown?.model.mesh ?? null
  const uvSet = shown?.model.uvSet ?? 0
  const [part, udim] = [shown?.part.part ?? 0, shown?.part.udim]
  const placed = shown ? JSON.stringify(placesOf(shown.model)) : '[]'
  useEffect(() => {
    if (!shows || model === null || mesh === null) return renderer.setModel(null)
    let wanted = true
    const address = meshAddress({ id: model, mesh, high: null, cage: null }, 'low')!
    modelWorker()
      .geometryOf(address, uvSet, true)
      .then(
        (parts) =>
          wanted && renderer.setModel({ parts, places: JSON.parse(placed) as OnModel[], worked: { part, udim } }),
        () => wanted && setProblem('The model cannot be read right now. Reload the page to try again.'),
      )
    return () => {
      wanted = false
    }
  }, [renderer, shows, model, mesh, uvSet, part, udim, placed])
  useOtherParts(renderer, shown?.model ?? null, { part, udim }, shows)
  const over = useView((view) => view.stage.meshData)
  const checked = over === null ? -1 : CHECKERS.indexOf(over)
  const dataName = over === null ? undefined : shown?.part.facts.data[over]
  useEffect(() => {
    const sha256 = dataName?.slice(dataName.indexOf(':') + 1)
    if (!shows || model === null || over === null) return renderer.setOver(null)
    if (checked >= 0) return renderer.setOver({ uvSet: checked })
    const info = { part, kind: over, udim: udim ?? FIRST_TILE, sha256 } as MeshDataInfo
    renderer.setOver(sha256 === undefined ? null : { address: meshDataAddress(model, info, 'picture') })
  }, [renderer, shows, model, part, udim, over, checked, dataName])
  if (!shows) return null
  if (state.models === null) return state.problem ? <Note words={state.problem} /> : null
  if (state.models.every(({ parts }) => parts.length === 0))
    return (
      <p className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
        This project has no models yet.{' '}
        <Link to={`/projects/${project}`} className="text-accent-ink underline">
          Add one on the project’s page.
        </Link>
      </p>
    )
  return (
    <>
      {!shown && <Note words="This material lies on no part yet. Choose one below to see it there." />}
      {problem && <Note words={problem} />}
    </>
  )
}

/** Which part is shown, how, and what it lacks. */
export function PartLists({ delivers }: { delivers: readonly Channel[] }) {
  const { id, placement } = useMaterial()
  const state = usePlacement((one) => one)
  const shown = shownPart(state, id)
  const options = (state.models ?? []).flatMap((one) =>
    one.parts.map((each) => ({
      value: keyOf(one.id, each),
      word: `${partInWords(each)}${liesInWords(each, id)}`,
    })),
  )
  if (state.models === null || options.length === 0) return null
  const lies = shown !== null && liesOn(shown.part, id)
  return (
    <div className="flex max-w-full flex-wrap items-center justify-end gap-1.5 self-end">
      {shown && <Lacking part={shown.part} model={shown.model.id} delivers={delivers} />}
      {shown && !lies && (
        <Button
          title={
            shown.part.material
              ? `${shown.part.facts.name} has ${shown.part.material.name} now`
              : `${shown.part.facts.name} has no material yet`
          }
          onClick={() => void placement.place({ model: shown.model.id, part: shown.part.part }, id)}
        >
          Put it on this part
        </Button>
      )}
      {shown && <Beside part={shown.part} models={state.models} />}
      {shown && <Looks part={shown.part} alone={shown.model.parts.length === 1} />}
      <Choice
        label="Shown on"
        value={shown ? keyOf(shown.model.id, shown.part) : ''}
        options={shown ? options : [{ value: '', word: 'choose a part' }, ...options]}
        onChange={(key) => {
          const [chosenModel, chosenPart, tile] = key.split(' ')
          if (!chosenModel || !chosenPart) return
          placement.choose({ model: chosenModel, part: Number(chosenPart), ...(tile ? { udim: Number(tile) } : {}) })
        }}
        className="max-w-72"
      />
    </div>
  )
}

/** Mesh data that the material or its files take and the part lacks, of which a draft is made unasked; those that are drafts yet, or stale. */
function Lacking({ part, model, delivers }: { part: ProjectPart; model: string; delivers: readonly Channel[] }) {
  const document = useUndialled()
  const drafting = useFetcher()
  const fetcher = useFetcher()
  const needed = useMemo(() => kindsRead(document, registry, { under: true, delivery: delivers }), [document, delivers])
  const missing = needed.filter((kind) => part.facts.data[kind] === undefined)
  const stale = needed.filter((kind) => part.stale.includes(kind))
  const [asked, setAsked] = useState('')
  const drafted = useRef('')
  const bake = (kinds: readonly string[], by: typeof fetcher, draft: boolean): void => {
    const cells = kinds.map((kind) => ({ part: part.part, kind }))
    const request = { intent: 'bake', cells, draft } as never
    void by.submit(request, { method: 'post', action: `/models/${model}`, encType: 'application/json' })
  }
  const lacks = missing.length > 0 ? `${model} ${part.part} ${missing.join()}` : ''
  useEffect(() => {
    if (lacks === '' || drafted.current === lacks) return
    drafted.current = lacks
    bake(missing, drafting, true)
  })
  const wanted = [...missing, ...stale]
  if (wanted.length === 0) return null
  const named = wanted.map((kind) => kind.replace('-', ' ')).join(', ')
  const key = `${model} ${part.part} ${wanted.join()}`
  const state =
    missing.length > 0
      ? 'Not baked yet, a draft is on its way'
      : stale.every((kind) => part.drafts.includes(kind))
        ? 'A draft'
        : 'Stale'
  return (
    <span className="flex max-w-full items-center gap-2 rounded-md bg-raised px-2 py-0.5">
      <span className="min-w-0 truncate" title={named}>
        ▲ {state}: {named}
      </span>
      <Button
        disabled={asked === key}
        onClick={() => {
          setAsked(key)
          bake(wanted, fetcher, false)
        }}
      >
        {asked === key ? 'Baking …' : 'Bake it now'}
      </Button>
    </span>
  )
}

/** Another material of the project on the same part, left of a seam: what it would be with that one. */
function Beside({ part, models }: { part: ProjectPart; models: readonly ProjectParts[] }) {
  const { id } = useMaterial()
  const actions = useActions()
  const compared = useView((view) => view.compared)
  const others = useMemo(() => {
    const found = new Map<string, PlacedMaterial>()
    const lying = models
      .flatMap((model) => model.parts)
      .flatMap(({ material, onIds }) => [material, ...onIds.map((one) => one.material)])
    for (const one of lying) if (one && one.id !== id) found.set(one.id, one)
    // What lies on this part now comes first.
    const own = part.material && found.get(part.material.id)
    return own ? [own, ...[...found.values()].filter((one) => one !== own)] : [...found.values()]
  }, [models, part, id])
  if (others.length === 0) return null
  const shown = others.find(({ name }) => name === compared?.name)
  const compare = async (material: PlacedMaterial | undefined): Promise<void> => {
    if (!material) return actions.setView({ compared: null, versus: null })
    try {
      const document = await documentAt(material.id, material.head)
      actions.setView({ compared: { name: material.name, document }, versus: null })
    } catch {
      actions.notify(`${material.name} cannot be read right now.`)
    }
  }
  return (
    <Choice
      label="Beside another material"
      value={shown?.id ?? ''}
      options={[
        { value: '', word: 'this material alone' },
        ...others.map(({ id: value, name }) => ({ value, word: `beside ${name}` })),
      ]}
      onChange={(chosen) => void compare(others.find((one) => one.id === chosen))}
      className="max-w-44"
    />
  )
}

/** What of the model is seen besides the material: its baked data, and the other parts. */
function Looks({ part, alone }: { part: ProjectPart; alone: boolean }) {
  const actions = useActions()
  const { meshData, isolated } = useView((view) => view.stage)
  const kinds = Object.keys(part.facts.data)
  const over = [
    ...kinds.map((kind) => ({ value: kind, word: `${kind.replace('-', ' ')} over it` })),
    ...CHECKERS.slice(0, part.uvSets).map((value, i) => ({ value, word: `checker in UV set ${i + 1}` })),
  ]
  return (
    <>
      {over.length > 0 && (
        <Choice
          label="Laid over the surface"
          value={over.some(({ value }) => value === meshData) ? meshData! : ''}
          options={[{ value: '', word: 'nothing over it' }, ...over]}
          onChange={(kind) => actions.setStage({ meshData: kind === '' ? null : kind })}
        />
      )}
      {!alone && (
        <span className="rounded bg-raised">
          <ToolButton
            icon={Focus}
            word="Only this part"
            tip="Hides the other parts of the model, and shows this one as large as fits"
            pressed={isolated}
            onClick={() => actions.setStage({ isolated: !isolated })}
          />
        </span>
      )}
    </>
  )
}

/** Another part that was pressed on: what it is, and ways to it. */
export function PartHere({ x, y, at, onClose }: { x: number; y: number; at: OnModel; onClose: () => void }) {
  const { id, placement } = useMaterial()
  const model = shownPart(
    usePlacement((one) => one),
    id,
  )?.model
  const found = model?.parts.find((one) => one.part === at.part && one.udim === at.udim)
  if (!model || !found) return null
  const material = found.onIds.find(({ slot }) => slot === at.slot)?.material ?? found.material
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor className="pointer-events-none absolute size-0" style={{ left: x, top: y }} />
      <Popover.Portal>
        <Popover.Content
          aria-label="The part here"
          sideOffset={8}
          collisionPadding={8}
          className="z-40 flex w-64 flex-col gap-2 rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
        >
          <h3 className="font-semibold">{partInWords(found)}</h3>
          <p className="text-ink-soft">
            {material ? (material.id === id ? 'Has this material.' : `Has ${material.name}.`) : 'Has no material yet.'}
          </p>
          <span className="flex flex-wrap gap-2">
            <Button
              onClick={() => {
                placement.choose({ model: model.id, part: found.part, ...(found.udim ? { udim: found.udim } : {}) })
                onClose()
              }}
            >
              Show this material on it
            </Button>
            {material && material.id !== id && (
              <Link to={`/documents/${material.id}`} className={buttonClasses('quiet')}>
                Open {material.name}
              </Link>
            )}
          </span>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** What lies on a part, for a list. */
function liesInWords(part: ProjectPart, id: string): string {
  if (part.material?.id === id) return ' · this material'
  if (liesOn(part, id)) return ' · this material on IDs'
  return part.material ? ` · ${part.material.name}` : ''
}

function Note({ words }: { words: string }) {
  return <p className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">{words}</p>
}
