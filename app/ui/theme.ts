import { useSyncExternalStore } from 'react'

export type Theme = 'linen' | 'soot'
const KEY = 'amber-grist-theme'
const CHANGED = 'amber-grist-theme-changed'

/**
 * Runs before the first paint, so that a page never flashes in the other theme. The name in front is where the packages
 * that put styles into a page (the dialogs' scroll lock) look for its nonce.
 */
export const THEME_SCRIPT = `window.__webpack_nonce__=document.currentScript.nonce;try{document.documentElement.dataset.theme=localStorage.getItem('${KEY}')||'linen'}catch{}`

function subscribe(changed: () => void): () => void {
  window.addEventListener(CHANGED, changed)
  return () => window.removeEventListener(CHANGED, changed)
}

const current = (): Theme => (document.documentElement.dataset.theme === 'soot' ? 'soot' : 'linen')

/** The theme in force and a way to change it; remembered by the browser. */
export function useTheme(): [Theme, (theme: Theme) => void] {
  const theme = useSyncExternalStore(subscribe, current, () => 'linen' as const)
  return [
    theme,
    (next) => {
      document.documentElement.dataset.theme = next
      try {
        localStorage.setItem(KEY, next)
      } catch {
        // Storage may be closed; the theme then lasts until the page is left.
      }
      window.dispatchEvent(new Event(CHANGED))
    },
  ]
}
