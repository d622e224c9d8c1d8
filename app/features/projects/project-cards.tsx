import { Copy, Pencil, Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { Link, useSubmit } from 'react-router'
import { useSends } from '../../session/use-sends'
import type { ProjectCard } from '../../contracts/project'
import type { StartCard } from '../../contracts/start'
import { Button, IconButton } from '../../ui/button'
import { useDeleted } from '../../ui/deleted-notice'
import { NameDialog } from '../../ui/name-dialog'
import { NewDialog } from './new-dialog'
import { useEvents } from '../../session/events/use-events'
import { useReload } from '../../session/use-reload'
import { agoInWords, counted } from '../../ui/words'

/** Every project as a card with its picture; new, duplicate, rename, delete with undo. */
export function ProjectCards({
  projects,
  starts,
  now,
}: {
  projects: readonly ProjectCard[]
  starts: readonly StartCard[]
  now: number
}) {
  const { send } = useSends<Record<string, string>>('form')
  // What leads to another page is a navigation: a reload in between would take a fetcher's redirect away.
  const submit = useSubmit()
  const [naming, setNaming] = useState<{ project: ProjectCard | null } | null>(null)
  const reload = useReload()
  useEvents(
    ['runs'],
    (notice) => {
      if (notice.type === 'run' && notice.run.endedAt) reload()
    },
    { onMended: reload },
  )
  const { remove, notice } = useDeleted<ProjectCard>(
    ({ id }) => send({ intent: 'delete', id }),
    ({ id }) => send({ intent: 'undelete', id }),
  )
  return (
    <div className="mx-auto max-w-[84rem] p-6">
      <div className="flex items-baseline gap-4">
        <h1 className="text-lg font-semibold">Projects</h1>
        <span className="flex-1" />
        <Button variant="main" onClick={() => setNaming({ project: null })}>
          <Plus size={16} aria-hidden /> New project
        </Button>
      </div>
      {notice}
      {projects.length === 0 && (
        <p className="mt-10 text-ink-soft">No projects yet. A new project begins with one material.</p>
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
              <Link to={`/projects/${project.id}`} className="truncate text-head font-semibold hover:underline">
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
                <IconButton icon={Pencil} word="Rename" of={project.name} onClick={() => setNaming({ project })} />
                <IconButton
                  icon={Copy}
                  word="Duplicate"
                  of={project.name}
                  onClick={() => send({ intent: 'duplicate', id: project.id })}
                />
                <IconButton icon={Trash2} word="Delete" of={project.name} onClick={() => remove(project)} />
              </div>
            </div>
          </li>
        ))}
      </ul>
      {naming &&
        (naming.project ? (
          <NameDialog
            title={`Rename “${naming.project.name}”`}
            name={naming.project.name}
            action="Rename"
            onName={(name) => send({ intent: 'rename', id: naming.project!.id, name })}
            onClose={() => setNaming(null)}
          />
        ) : (
          <NewDialog
            title="New project"
            about="Its first material opens at once."
            starts={starts}
            onMake={(name, start) => void submit({ intent: 'create', name, start }, { method: 'post' })}
            onClose={() => setNaming(null)}
          />
        ))}
    </div>
  )
}
