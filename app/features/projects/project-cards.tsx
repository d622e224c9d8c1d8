import { Copy, Pencil, Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { Link, useFetcher, useRevalidator } from 'react-router'
import type { ProjectCard } from '../../server/projects.server'
import { Button } from '../../ui/button'
import { Modal } from '../../ui/modal'
import { useEvents } from '../../ui/use-events'
import { agoInWords, counted } from '../../ui/words'

/** Every project as a card with its picture; new, duplicate, rename, delete with undo. */
export function ProjectCards({ projects, now }: { projects: readonly ProjectCard[]; now: number }) {
  const fetcher = useFetcher()
  const [naming, setNaming] = useState<{ project: ProjectCard | null } | null>(null)
  const [gone, setGone] = useState<ProjectCard | null>(null)
  const revalidator = useRevalidator()
  useEvents('/events', (notice) => {
    if (notice.type === 'run' && notice.run.endedAt) void revalidator.revalidate()
  })
  const send = (fields: Record<string, string>) => void fetcher.submit(fields, { method: 'post' })
  const remove = (project: ProjectCard): void => {
    setGone(project)
    send({ intent: 'delete', id: project.id })
  }
  return (
    <div className="mx-auto max-w-[84rem] p-6">
      <div className="flex items-baseline gap-4">
        <h1 className="text-lg font-semibold">Projects</h1>
        <span className="flex-1" />
        <Button look="main" onClick={() => setNaming({ project: null })}>
          <Plus size={16} aria-hidden /> New project
        </Button>
      </div>
      {gone && (
        <div
          role="status"
          className="mt-4 flex items-center gap-3 rounded-md border border-rule-strong bg-raised px-3 py-2"
        >
          <span>“{gone.name}” was deleted.</span>
          <Button
            onClick={() => {
              send({ intent: 'undelete', id: gone.id })
              setGone(null)
            }}
          >
            Bring it back
          </Button>
        </div>
      )}
      {projects.length === 0 && (
        <p className="mt-10 text-ink-soft">No projects yet. A new project begins with one empty tile material.</p>
      )}
      <ul className="mt-4 grid grid-cols-[repeat(auto-fill,minmax(15rem,1fr))] gap-4">
        {projects.map((project) => (
          <li key={project.id} className="flex flex-col overflow-hidden rounded-lg border border-rule bg-panel">
            <Link
              to={`/projects/${project.id}`}
              className="block aspect-[4/3] bg-view"
              aria-label={`Open ${project.name}`}
            >
              {project.pictureOf ? (
                <img
                  src={`/documents/${project.pictureOf}/picture.png?r=${project.pictureRevision}`}
                  alt=""
                  className="size-full object-cover"
                />
              ) : (
                <span className="flex size-full items-center justify-center text-[#1d1d1c]">
                  {project.documents ? 'The picture is being made' : 'No materials yet'}
                </span>
              )}
            </Link>
            <div className="flex flex-1 flex-col gap-1 p-3">
              <Link to={`/projects/${project.id}`} className="truncate text-[14px] font-semibold hover:underline">
                {project.name}
              </Link>
              <p className="text-ink-soft">
                {counted(project.documents, 'material')}, {counted(project.deliveries, 'delivery', 'deliveries')} ·
                changed {agoInWords(project.changedAt, now)}
              </p>
              <p>
                {project.running > 0 && <span>◐ {counted(project.running, 'bake')} under way </span>}
                {project.failed > 0 && (
                  <Link to="/jobs" className="underline">
                    ■ {counted(project.failed, 'bake')} failed
                  </Link>
                )}
              </p>
              <div className="mt-auto -mb-1 -ml-2 flex">
                <Button
                  look="quiet"
                  onClick={() => setNaming({ project })}
                  title="Rename"
                  aria-label={`Rename ${project.name}`}
                >
                  <Pencil size={14} aria-hidden />
                </Button>
                <Button
                  look="quiet"
                  onClick={() => send({ intent: 'duplicate', id: project.id })}
                  title="Duplicate"
                  aria-label={`Duplicate ${project.name}`}
                >
                  <Copy size={14} aria-hidden />
                </Button>
                <Button
                  look="quiet"
                  onClick={() => remove(project)}
                  title="Delete"
                  aria-label={`Delete ${project.name}`}
                >
                  <Trash2 size={14} aria-hidden />
                </Button>
              </div>
            </div>
          </li>
        ))}
      </ul>
      <Modal
        open={naming !== null}
        onOpenChange={(open) => !open && setNaming(null)}
        title={naming?.project ? `Rename “${naming.project.name}”` : 'New project'}
        about={naming?.project ? undefined : 'It begins with one empty tile material.'}
      >
        <form
          onSubmit={(event) => {
            event.preventDefault()
            const name = String(new FormData(event.currentTarget).get('name')).trim()
            if (!name || !naming) return
            send(naming.project ? { intent: 'rename', id: naming.project.id, name } : { intent: 'create', name })
            setNaming(null)
          }}
          className="flex flex-col gap-4"
        >
          <label className="flex flex-col gap-1">
            <span className="text-ink-soft">Name</span>
            <input
              name="name"
              required
              maxLength={200}
              autoFocus
              defaultValue={naming?.project?.name ?? ''}
              className="rounded border border-rule-strong bg-raised px-2 py-1"
            />
          </label>
          <div className="flex justify-end gap-2">
            <Button onClick={() => setNaming(null)}>Close</Button>
            <Button look="main" type="submit">
              {naming?.project ? 'Rename' : 'Make it'}
            </Button>
          </div>
        </form>
      </Modal>
    </div>
  )
}
