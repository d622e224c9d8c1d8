import type { Layer } from '#core/document/document'
import type { OwnLayer, OwnSettings } from '#core/document/own-settings'
import { hasOwn, withOwnLayer } from '#core/document/own-settings'
import { useDocument } from '../../session/material'
import { blendWord, blendsFor } from '../../session/words/blend-words'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { NumberBox } from '../../ui/number-box'
import { useChannels } from './maps'

/** The choice that is as in the material. */
const AS_IS = ':as-is'

/** What is another way in what is made, the material staying as it is: a variation, layers on or off, amounts, blends. */
export function OwnPane({ own, onChange }: { own: OwnSettings; onChange(own: OwnSettings): void }) {
  const document = useDocument()
  const presets = Object.entries(document.presets)
  const layers = fromTheTop(document.layers)
  return (
    <details className="rounded border border-rule">
      <summary className="cursor-default px-2 py-1">
        Only in what is made
        {hasOwn(own) && <span className="font-semibold"> ▲ other than the material</span>}
      </summary>
      <div className="flex flex-col gap-2 border-t border-rule p-2">
        <p className="text-ink-soft">The material stays as it is; the stage beside shows it with these.</p>
        {presets.length > 0 && (
          <label className="flex items-center gap-2">
            <span className="w-28 text-ink-soft">Dials</span>
            <Choice
              label="Dials in what is made"
              value={own.preset !== undefined && document.presets[own.preset] ? own.preset : AS_IS}
              options={[
                { value: AS_IS, word: 'as they stand' },
                ...presets.map(([id, { name }]) => ({ value: id, word: name })),
              ]}
              onChange={(preset) => onChange({ ...own, preset: preset === AS_IS ? undefined : preset })}
              className="flex-1"
            />
          </label>
        )}
        <ul aria-label="Layers in what is made" className="flex flex-col divide-y divide-rule">
          {layers.map((layer) => (
            <OwnRow
              key={layer.id}
              layer={layer}
              own={own.layers[layer.id] ?? {}}
              onChange={(change) => onChange(withOwnLayer(own, layer.id, change))}
            />
          ))}
        </ul>
        {hasOwn(own) && (
          <Button className="self-start" onClick={() => onChange({ layers: {} })}>
            As in the material
          </Button>
        )}
      </div>
    </details>
  )
}

/** Layers as the sheet lists them: from the top, groups before what lies in them. */
const fromTheTop = (layers: readonly Layer[]): Layer[] =>
  layers.toReversed().flatMap((layer) => [layer, ...(layer.kind === 'group' ? fromTheTop(layer.layers) : [])])

function OwnRow({ layer, own, onChange }: { layer: Layer; own: OwnLayer; onChange(change: OwnLayer): void }) {
  const channels = useChannels()
  const off = own.off ?? layer.off ?? false
  const cells = layer.kind === 'group' ? {} : layer.cells
  const shown = channels.filter(({ id }) => cells[id])
  const amount = own.amount ?? layer.amount
  return (
    <li className="flex flex-wrap items-center gap-2 py-1">
      <label className="flex min-w-40 flex-1 items-center gap-2">
        <input
          type="checkbox"
          className="accent-accent"
          aria-label={`${layer.name} is on`}
          checked={!off}
          onChange={(event) => {
            const next = !event.target.checked
            onChange({ off: next === (layer.off ?? false) ? undefined : next })
          }}
        />
        <span className={`truncate ${Object.keys(own).length > 0 ? 'font-semibold' : ''}`}>{layer.name}</span>
      </label>
      {shown.length > 0 && (
        <Choice
          label={`Blend of ${layer.name}`}
          value=""
          options={[
            { value: '', word: Object.keys(own.blends ?? {}).length > 0 ? 'own blends' : 'blends' },
            ...shown.flatMap(({ id, title, type }) =>
              blendsFor(type).map((blend) => ({
                value: `${id}:${blend}`,
                word: `${(own.blends?.[id] ?? cells[id]!.blend) === blend ? '● ' : ''}${blendWord(blend)}`,
                group: title,
              })),
            ),
          ]}
          onChange={(value) => {
            const [id = '', blend = ''] = value.split(':')
            const others = Object.entries(own.blends ?? {}).filter(([channel]) => channel !== id)
            const next = Object.fromEntries(
              blend === cells[id]?.blend ? others : [...others, [id, blend]],
            ) as NonNullable<OwnLayer['blends']>
            onChange({ blends: Object.keys(next).length > 0 ? next : undefined })
          }}
          className="w-28 text-note"
        />
      )}
      <span className="w-20">
        <NumberBox
          label={`Amount of ${layer.name}`}
          min={0}
          max={1}
          standard={layer.amount}
          value={amount}
          onDrag={(next) => onChange({ amount: next === layer.amount ? undefined : next })}
          onDrop={() => {}}
        />
      </span>
    </li>
  )
}
