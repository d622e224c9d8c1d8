import { Slider } from 'radix-ui'

interface NumberSliderProps {
  readonly label: string
  readonly help?: string
  readonly min: number
  readonly max: number
  readonly standard: number
  readonly value: number
  readonly onChange: (value: number) => void
}

/** A named number on a track; double-click brings the default back. */
export function NumberSlider({ label, help, min, max, standard, value, onChange }: NumberSliderProps) {
  const step = (max - min) / 200
  return (
    <div className="grid grid-cols-[8rem_1fr_4.5rem] items-center gap-3" onDoubleClick={() => onChange(standard)}>
      <span className="text-ink-soft" title={help}>
        {label}
      </span>
      <Slider.Root
        className="relative flex h-6 items-center"
        min={min}
        max={max}
        step={step}
        value={[value]}
        onValueChange={([next]) => onChange(next!)}
      >
        <Slider.Track className="relative h-[3px] grow rounded-full bg-rule-strong">
          <Slider.Range className="absolute h-full rounded-full bg-ink" />
        </Slider.Track>
        <Slider.Thumb aria-label={label} className="block h-4 w-[6px] cursor-ew-resize rounded-sm bg-accent" />
      </Slider.Root>
      <span aria-hidden className="rounded border border-rule bg-raised px-1.5 py-0.5 text-right font-mono">
        {value.toFixed(3)}
      </span>
    </div>
  )
}
