import { Slider } from 'radix-ui'

interface NumberSliderProps {
  readonly label: string
  readonly help?: string
  readonly unit?: string
  readonly whole?: boolean
  readonly min: number
  readonly max: number
  readonly standard: number
  readonly value: number
  /** While the thumb moves, and once when it rests. */
  readonly onDrag: (value: number) => void
  readonly onDrop: () => void
  readonly onReset: () => void
}

/** A named number on a track; double-click brings the default back. */
export function NumberSlider({
  label,
  help,
  unit,
  whole,
  min,
  max,
  standard,
  value,
  onDrag,
  onDrop,
  onReset,
}: NumberSliderProps) {
  const step = whole ? 1 : (max - min) / 200
  const shown = whole ? String(value) : value.toFixed(3)
  return (
    <div className="grid grid-cols-[6.5rem_1fr_4.5rem] items-center gap-3" onDoubleClick={onReset}>
      <span className="text-ink-soft" title={help}>
        {label}
      </span>
      <Slider.Root
        className="relative flex h-6 items-center"
        min={min}
        max={max}
        step={step}
        value={[value]}
        onValueChange={([next]) => onDrag(next!)}
        // By key the slider commits before it tells the change that it commits.
        onValueCommit={() => queueMicrotask(onDrop)}
        title={`Double-click for ${standard}`}
      >
        <Slider.Track className="relative h-[3px] grow rounded-full bg-rule-strong">
          <Slider.Range className="absolute h-full rounded-full bg-ink" />
        </Slider.Track>
        <Slider.Thumb aria-label={label} className="block h-4 w-[6px] cursor-ew-resize rounded-sm bg-accent" />
      </Slider.Root>
      <span
        aria-hidden
        className="rounded border border-rule bg-raised px-1.5 py-0.5 text-right font-mono whitespace-nowrap"
      >
        {shown}
        {unit && <span className="text-ink-soft"> {unit}</span>}
      </span>
    </div>
  )
}
