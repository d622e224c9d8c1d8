import { AArrowUp, ListChecks, Moon, Sun } from 'lucide-react'
import { Tooltip } from 'radix-ui'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { buttonClasses } from './button'
import { Menu, MenuItem } from './menu'
import { TEXT_SIZES, useTextSize } from './text-size'
import { useTheme } from './theme'

/** Brand, where we are (each place but the last leads back to it), the jobs, and the theme. */
export function TopBar({
  place,
  aside,
  children,
}: {
  place: readonly { name: string; to?: string }[]
  /** Before the jobs, at the right. */
  aside?: ReactNode
  children?: ReactNode
}) {
  const [theme, setTheme] = useTheme()
  const [textSize, setTextSize] = useTextSize()
  const other = theme === 'linen' ? 'soot' : 'linen'
  return (
    <header className="@container flex h-11 shrink-0 items-center gap-4 border-b border-rule bg-panel px-4">
      <Link to="/" className="flex items-center gap-2 text-brand font-bold tracking-tight">
        <Grain />
        <span className="whitespace-nowrap @max-[76rem]:sr-only">Amber Grist</span>
      </Link>
      <nav aria-label="Where you are" className="flex min-w-0 items-center text-ink-soft">
        {place.map(({ name, to }, i) => (
          <span key={name} className="truncate">
            {i > 0 && <span className="px-1">/</span>}
            {to ? (
              <Link to={to} className="hover:text-ink hover:underline">
                {name}
              </Link>
            ) : (
              <span aria-current="page" className="font-semibold text-ink">
                {name}
              </span>
            )}
          </span>
        ))}
      </nav>
      {children}
      <span className="flex-1" />
      {aside}
      <Link to="/jobs" className={buttonClasses('quiet')}>
        <ListChecks size={16} aria-hidden />
        Jobs
      </Link>
      <Menu
        trigger={
          <button
            type="button"
            aria-label="Size of text"
            title="Size of text"
            className="rounded-md border border-rule-strong bg-raised p-1.5"
          >
            <AArrowUp size={16} aria-hidden />
          </button>
        }
      >
        {TEXT_SIZES.map((size) => (
          <MenuItem key={size} onSelect={() => setTextSize(size)}>
            {size === textSize ? '● ' : '○ '}
            Text {Math.round(size * 100)} %
          </MenuItem>
        ))}
      </Menu>
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
