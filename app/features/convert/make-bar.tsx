import { useState } from 'react'
import { writtenFormats } from '#core/texture/format-registry'
import type { Packing } from '#core/texture/packing'
import type { MapSet } from '../../contracts/map-set'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { counted } from '../../ui/words'

const AS_IT_IS = 'as it is'
const SIZES = ['256', '512', '1024', '2048', '4096', '8192']

/** Every form that files are written in. */
const FORMS = writtenFormats.flatMap(({ name, title, write }) =>
  write.depths.map(({ bits, title: depth }) => ({ value: `${name} ${bits}`, word: `${title} ${depth}` })),
)

/** A packing, or a set whose files are replaced. */
export type Target = Packing | MapSet

const OF_SET = 'in place of '

/** What sets become: by which packing, how large; or files in place of those of another set. */
export function MakeBar({
  packings,
  target,
  others,
  onTarget,
  count,
  onConvert,
  onReplace,
}: {
  packings: readonly Packing[]
  target: Target
  /** Sets whose files it may take the place of. */
  others: readonly MapSet[]
  onTarget(target: Target): void
  count: number
  onConvert(how: Record<string, string>, all: boolean): void
  onReplace(set: MapSet): void
}) {
  const [width, setWidth] = useState(AS_IT_IS)
  const [form, setForm] = useState(AS_IT_IS)
  const [dither, setDither] = useState(false)
  const convert = (all: boolean): void =>
    onConvert(
      {
        packing: (target as Packing).name,
        dither: dither ? 'yes' : 'no',
        ...(width === AS_IT_IS ? {} : { width }),
        ...(form === AS_IT_IS ? {} : { form }),
      },
      all,
    )
  const replaced = 'widthMetres' in target ? target : null
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-panel px-4 py-2">
      <label
        className="flex min-w-0 items-center gap-2"
        title={
          replaced
            ? 'Each file takes its name, size, format and what its channels hold from the one that it replaces; those go along in a folder “before”'
            : (target as Packing).summary
        }
      >
        <span className="text-ink-soft">Becomes</span>
        <Choice
          label="Packing"
          value={replaced ? `${OF_SET}${replaced.id}` : (target as Packing).name}
          options={[
            ...packings.map(({ name, title }) => ({
              value: name,
              word: title,
              ...(others.length > 0 ? { group: 'By a packing' } : {}),
            })),
            ...others.map(({ id, name }) => ({
              value: `${OF_SET}${id}`,
              word: name,
              group: 'In place of the files of',
            })),
          ]}
          onChange={(value) =>
            onTarget(
              others.find(({ id }) => value === `${OF_SET}${id}`) ?? packings.find(({ name }) => name === value)!,
            )
          }
        />
      </label>
      {replaced ? (
        <span className="text-ink-soft">Names, sizes and forms are those of its files.</span>
      ) : (
        <>
          <label className="flex items-center gap-2">
            <span className="text-ink-soft">Size</span>
            <Choice
              label="Size"
              value={width}
              options={[
                { value: AS_IT_IS, word: 'as the set' },
                ...SIZES.map((value) => ({ value, word: `${value} wide` })),
              ]}
              onChange={setWidth}
            />
          </label>
          <label className="flex items-center gap-2">
            <span className="text-ink-soft">Format</span>
            <Choice
              label="Format"
              value={form}
              options={[{ value: AS_IT_IS, word: 'as the packing says' }, ...FORMS]}
              onChange={setForm}
            />
          </label>
          <label className="flex items-center gap-2" title="Spreads what 8 bits cannot hold over neighbouring texels">
            <input
              type="checkbox"
              className="accent-accent"
              checked={dither}
              onChange={(event) => setDither(event.target.checked)}
            />
            Dither
          </label>
        </>
      )}
      <span className="flex-1" />
      {!replaced && count > 1 && <Button onClick={() => convert(true)}>Convert all {counted(count, 'set')}</Button>}
      <Button variant="main" onClick={() => (replaced ? onReplace(replaced) : convert(false))}>
        {replaced ? 'Make them' : 'Convert this set'}
      </Button>
    </div>
  )
}
