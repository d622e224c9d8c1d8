import { useState } from 'react'
import type { Asset } from '../../contracts/asset'

/** From so many images on there is a field to search them. */
const MANY = 6

/**
 * Images of the project, or of all of them, by what their names hold: fields to choose by, those that are shown, and words where
 * none is.
 */
export function useImageSearch<T extends Asset>(images: readonly T[]) {
  const [sought, setSought] = useState('')
  const [all, setAll] = useState(false)
  const elsewhere = images.some(({ here }) => !here)
  const among = images.filter(({ here }) => here || all)
  const word = sought.trim().toLowerCase()
  const shown = among.filter(({ name }) => name.toLowerCase().includes(word))
  const field = (
    <>
      {among.length > MANY && (
        <input
          type="search"
          aria-label="Search images"
          placeholder="Search"
          value={sought}
          onChange={(event) => setSought(event.target.value)}
          className="w-40 rounded border border-rule-strong bg-raised px-2 py-0.5"
        />
      )}
      {elsewhere && (
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={all} onChange={({ target }) => setAll(target.checked)} />
          Of all projects
        </label>
      )}
    </>
  )
  const none =
    among.length === 0
      ? elsewhere && <p className="text-ink-soft">None in this project yet.</p>
      : shown.length === 0 && <p className="text-ink-soft">No name has “{sought}” in it.</p>
  return { field, shown, none }
}
