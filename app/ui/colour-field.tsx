import ShadeSlider from '@uiw/react-color-shade-slider'
import Wheel from '@uiw/react-color-wheel'
import { hexToHsva, hsvaToHex } from '@uiw/color-convert'
import { Pipette } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import { Button } from './button'
import { completeHex } from './hex'

export interface ColourProps {
  readonly label: string
  readonly value: string
  readonly standard: string
  onDrag(hex: string): void
  onDrop(): void
  /** Starts picking from the stage; the picked colour comes back. */
  readonly onPick?: (take: (hex: string) => void) => void
}

/** A colour as sRGB hex, with a wheel, and a way to pick it from the stage. */
export function ColourBox({ label, value, standard, onDrag, onDrop, onPick }: ColourProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const [open, setOpen] = useState(false)
  // The wheel keeps hue and saturation while a colour is black.
  const [shown, setHsva] = useState(hexToHsva(value))
  const hsva = hsvaToHex(shown).toLowerCase() === value.toLowerCase() ? shown : hexToHsva(value)
  const set = (hex: string): void => {
    onDrag(hex)
    onDrop()
  }
  const commit = (): void => {
    const hex = typed === null ? null : completeHex(typed)
    if (hex && hex !== value) set(hex)
    setTyped(null)
  }
  const drag = (next: typeof shown): void => {
    setHsva(next)
    onDrag(hsvaToHex(next).toLowerCase())
  }
  return (
    <span className="flex items-center gap-1.5">
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger
          aria-label={`${label}: choose on a wheel`}
          title="Choose on a wheel; double-click for the default"
          onDoubleClick={() => {
            setOpen(false)
            set(standard)
          }}
          className="h-6 w-9 rounded border border-rule-strong"
          style={{ background: value }}
        />
        <Popover.Portal>
          <Popover.Content
            sideOffset={6}
            collisionPadding={8}
            aria-label={label}
            className="z-40 flex flex-col items-center gap-2 rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
          >
            <div onPointerUp={onDrop} onKeyUp={onDrop} className="flex flex-col gap-3">
              <Wheel
                color={hsva}
                width={168}
                height={168}
                aria-label={`${label}: hue and saturation`}
                onChange={(colour) => drag({ ...hsva, ...colour.hsva, v: hsva.v === 0 ? 100 : hsva.v })}
              />
              <ShadeSlider hsva={hsva} width={168} onChange={(shade) => drag({ ...hsva, ...shade })} />
            </div>
            <span className="font-mono">{value}</span>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <input
        aria-label={label}
        value={typed ?? value}
        spellCheck={false}
        maxLength={9}
        onChange={(event) => setTyped(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={commit}
        onKeyDown={(event) => event.key === 'Enter' && commit()}
        className="w-[5.5rem] min-w-0 rounded border border-rule-strong bg-raised px-1.5 py-0.5 font-mono"
      />
      {onPick && (
        <Button
          variant="quiet"
          aria-label={`${label}: pick from the stage`}
          title="Pick from the stage"
          onClick={() => onPick(set)}
        >
          <Pipette size={14} aria-hidden />
        </Button>
      )}
    </span>
  )
}
