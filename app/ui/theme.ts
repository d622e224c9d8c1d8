import { useSyncExternalStore } from 'react'

export type Theme = 'linen' | 'soot'
const KEY = 'amber-grist-theme'
const CHANGED = 'amber-grist-theme-changed'

/**
 * Runs before the first paint, so that a page never flashes in the other theme. The name in front is where the packages
 * that put styles into a page (the dialogs' scroll lock) look for its nonce.
 */
export const THEME_SCRIPT = `window.__webpack_nonce__=document.currentScript.nonce;document.documentElement.dataset.theme=(()=>{try{return localStorage.getItem('${KEY}')}catch{}})()||(matchMedia('(prefers-color-scheme: dark)').matches?'soot':'linen')`

function stored(): Theme | null {
  try {
    return localStorage.getItem(KEY) as Theme | null
  } catch {
    // Storage may be closed; what was chosen then lasts until the page is left.
    return null
  }
}

/** Until a theme is chosen here, the system's is followed, also when it changes. */
function subscribe(changed: () => void): () => void {
  const system = matchMedia('(prefers-color-scheme: dark)')
  const follow = (): void => {
    if (stored() || setHere) return
    document.documentElement.dataset.theme = system.matches ? 'soot' : 'linen'
    changed()
  }
  window.addEventListener(CHANGED, changed)
  system.addEventListener('change', follow)
  // The system may have changed while the page was on its way.
  follow()
  return () => {
    window.removeEventListener(CHANGED, changed)
    system.removeEventListener('change', follow)
  }
}

let setHere = false

const current = (): Theme => (document.documentElement.dataset.theme === 'soot' ? 'soot' : 'linen')

/** The theme in force and a way to choose one; remembered by the browser. */
export function useTheme(): [Theme, (theme: Theme) => void] {
  const theme = useSyncExternalStore(subscribe, current, () => 'linen' as const)
  return [
    theme,
    (next) => {
      document.documentElement.dataset.theme = next
      setHere = true
      try {
        localStorage.setItem(KEY, next)
      } catch {
        // Storage may be closed; the theme then lasts until the page is left.
      }
      window.dispatchEvent(new Event(CHANGED))
    },
  ]
}
