import { Separator } from 'react-resizable-panels'

/** Between two panes; dragged, or moved with the arrows. */
export function Divider({ word, across }: { word: string; across: boolean }) {
  return (
    <Separator
      aria-label={word}
      className={`grid place-items-center bg-rule outline-offset-0 hover:bg-accent focus-visible:bg-accent ${across ? 'w-1.5' : 'h-1.5'}`}
    >
      <span aria-hidden className={`rounded-full bg-rule-strong ${across ? 'h-6 w-0.5' : 'h-0.5 w-6'}`} />
    </Separator>
  )
}
