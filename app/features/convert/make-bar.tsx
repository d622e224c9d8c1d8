import { useState } from 'react'
import type { Packing } from '#core/texture/packing'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { counted } from '../../ui/words'

const AS_IT_IS = 'as it is'
const SIZES = ['256', '512', '1024', '2048', '4096', '8192']

/** What sets become: by which packing, how large. */
export function MakeBar({
  packings,
  packing,
  onPacking,
  count,
  onConvert,
}: {
  packings: readonly Packing[]
  packing: Packing
  onPacking(name: string): void
  count: number
  onConvert(how: Record<string, string>, all: boolean): void
}) {
  const [width, setWidth] = useState(AS_IT_IS)
  const [dither, setDither] = useState(false)
  const convert = (all: boolean): void =>
    onConvert({ packing: packing.name, dither: dither ? 'yes' : 'no', ...(width === AS_IT_IS ? {} : { width }) }, all)
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-panel px-4 py-2">
      <label className="flex min-w-0 items-center gap-2" title={packing.summary}>
        <span className="text-ink-soft">Becomes</span>
        <Choice
          label="Packing"
          value={packing.name}
          options={packings.map(({ name, title }) => ({ value: name, word: title }))}
          onChange={onPacking}
        />
      </label>
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
      <label className="flex items-center gap-2" title="Spreads what 8 bits cannot hold over neighbouring texels">
        <input
          type="checkbox"
          className="accent-accent"
          checked={dither}
          onChange={(event) => setDither(event.target.checked)}
        />
        Dither
      </label>
      <span className="flex-1" />
      {count > 1 && <Button onClick={() => convert(true)}>Convert all {counted(count, 'set')}</Button>}
      <Button variant="main" onClick={() => convert(false)}>
        Convert this set
      </Button>
    </div>
  )
}
