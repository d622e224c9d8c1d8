import { Moon, Sun } from 'lucide-react'
import { Tooltip } from 'radix-ui'
import { useTheme } from './theme'

/** Brand, where we are, and the theme. */
export function TopBar({ place }: { place: readonly string[] }) {
  const [theme, setTheme] = useTheme()
  const other = theme === 'linen' ? 'soot' : 'linen'
  return (
    <header className="flex h-11 items-center gap-4 border-b border-rule bg-panel px-4">
      <span className="flex items-center gap-2 text-sm font-bold tracking-tight">
        <Grain />
        Amber Grist
      </span>
      <nav aria-label="Where you are" className="text-ink-soft">
        {place.map((name, i) => (
          <span key={name}>
            {i > 0 && <span className="px-1">/</span>}
            <span className={i === place.length - 1 ? 'font-semibold text-ink' : ''}>{name}</span>
          </span>
        ))}
      </nav>
      <span className="flex-1" />
      <Tooltip.Root>
        <Tooltip.Trigger
          className="rounded-md border border-rule-strong bg-raised p-1.5"
          aria-label={`Use the ${other} theme`}
          onClick={() => setTheme(other)}
        >
          {theme === 'linen' ? <Moon size={16} aria-hidden /> : <Sun size={16} aria-hidden />}
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content sideOffset={6} className="rounded bg-ink px-2 py-1 text-ground">
            Use the {other} theme
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </header>
  )
}

/** The mark: a grain, leaning. */
const Grain = () => (
  <svg width="12" height="16" viewBox="0 0 12 16" aria-hidden className="rotate-[24deg] fill-accent">
    <path d="M6 0C10 4 12 8 11 12 10 15 8 16 6 16S2 15 1 12C0 8 2 4 6 0Z" />
  </svg>
)
