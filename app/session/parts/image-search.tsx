import { useState } from 'react'
import type { Asset } from '../../contracts/asset'

/** From so many images on there is a field to search them. */
const MANY = 6

/** Images by what their names hold: a field where there are many, those that are shown, and words where none is. */
export function useImageSearch<T extends Asset>(images: readonly T[]) {
  const [sought, setSought] = useState('')
  const word = sought.trim().toLowerCase()
  const shown = images.filter(({ name }) => name.toLowerCase().includes(word))
  const field = images.length > MANY && (
    <input
      type="search"
      aria-label="Search images"
      placeholder="Search"
      value={sought}
      onChange={(event) => setSought(event.target.value)}
      className="w-40 rounded border border-rule-strong bg-raised px-2 py-0.5"
    />
  )
  const none = shown.length === 0 && images.length > 0 && <p className="text-ink-soft">No name has “{sought}” in it.</p>
  return { field, shown, none }
}
