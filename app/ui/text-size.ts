import { useSyncExternalStore } from 'react'
import { remember } from './browser-storage'

/** How large text is, as a share of the usual. */
export const TEXT_SIZES = [1, 1.12, 1.25, 1.5] as const
const KEY = 'amber-grist-text'
const CHANGED = 'amber-grist-text-changed'

/** Runs before the first paint, as THEME_SCRIPT does. */
export const TEXT_SIZE_SCRIPT = `try{const s=Number(localStorage.getItem('${KEY}'));if(${JSON.stringify(TEXT_SIZES)}.includes(s))document.documentElement.style.setProperty('--text-size',s)}catch{}`

const current = (): number => Number(document.documentElement.style.getPropertyValue('--text-size')) || 1

function subscribe(changed: () => void): () => void {
  window.addEventListener(CHANGED, changed)
  return () => window.removeEventListener(CHANGED, changed)
}

/** The size of text and a way to choose one; remembered by the browser. */
export function useTextSize(): [number, (size: number) => void] {
  const size = useSyncExternalStore(subscribe, current, () => 1)
  return [
    size,
    (next) => {
      document.documentElement.style.setProperty('--text-size', String(next))
      remember(KEY, next)
      window.dispatchEvent(new Event(CHANGED))
    },
  ]
}
