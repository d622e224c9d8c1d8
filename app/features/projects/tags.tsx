import { Tag } from 'lucide-react'
import { useState } from 'react'
import type { ProjectPage } from '../../contracts/project'
import { NameDialog } from '../../ui/name-dialog'

type Material = ProjectPage['documents'][number]

/** From so many materials on there is a field to search them. */
const MANY = 4

/** Whether a material is found by words in its name or its tags; all of them have to be there. */
export const isFound = ({ name, tags }: Pick<Material, 'name' | 'tags'>, sought: string): boolean =>
  sought
    .toLowerCase()
    .split(/\s+/)
    .every((word) => [name, ...tags].some((text) => text.toLowerCase().includes(word)))

/** Materials by what is searched, and by the tags that are pressed. */
export function useMaterialSearch(materials: readonly Material[]) {
  const [sought, setSought] = useState('')
  const [pressed, setPressed] = useState<readonly string[]>([])
  const tags = [...new Set(materials.flatMap((one) => one.tags))].sort((a, b) => a.localeCompare(b))
  const active = pressed.filter((tag) => tags.includes(tag))
  const shown = materials.filter((one) => isFound(one, sought) && active.every((tag) => one.tags.includes(tag)))
  const toggle = (tag: string): void =>
    setPressed(active.includes(tag) ? active.filter((one) => one !== tag) : [...active, tag])
  const bar = (materials.length >= MANY || tags.length > 0) && (
    <div className="mt-3 flex flex-wrap items-center gap-2">
      <input
        type="search"
        aria-label="Search materials"
        placeholder="Search names and tags"
        value={sought}
        onChange={(event) => setSought(event.target.value)}
        className="w-56 rounded border border-rule-strong bg-raised px-2 py-0.5"
      />
      {tags.map((tag) => (
        <button
          key={tag}
          type="button"
          aria-pressed={active.includes(tag)}
          onClick={() => toggle(tag)}
          className="rounded-full border border-rule-strong px-2 py-0.5 text-note aria-pressed:border-accent aria-pressed:bg-accent aria-pressed:text-on-accent"
        >
          {tag}
        </button>
      ))}
    </div>
  )
  const none = shown.length === 0 && materials.length > 0 && (
    <p className="mt-4 text-ink-soft">No material is found by that.</p>
  )
  return { bar, shown, none }
}

/** The tags of a material, and a way to change them. */
export function Tags({ material, onTags }: { material: Material; onTags(tags: string): void }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <button
        type="button"
        aria-label={`Tags of ${material.name}: ${material.tags.join(', ') || 'none'}`}
        title="Tags, by which it is found"
        onClick={() => setOpen(true)}
        className="flex min-w-0 items-center gap-1 self-start text-note text-ink-soft hover:text-ink"
      >
        <Tag size={12} aria-hidden className="shrink-0" />
        <span className="truncate">{material.tags.join(', ') || 'no tags'}</span>
      </button>
      {open && (
        <NameDialog
          title={`Tags of ${material.name}`}
          about="Words between commas, such as stone, wet, shared."
          name={material.tags.join(', ')}
          action="Keep the tags"
          optional
          label="Tags"
          onName={onTags}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  )
}
