import { Layers, Pencil, Trash2, Upload, Wheat } from 'lucide-react'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import type { ShelfImage } from '../../contracts/asset'
import { Button, IconButton } from '../../ui/button'
import { useDeleted } from '../../ui/deleted-notice'
import { NameDialog } from '../../ui/name-dialog'
import { useImageSearch } from '../../session/parts/image-search'
import { IMAGE_FILES, sendImage } from '../../session/send-file'
import { useLoadAgain } from '../../session/use-load-again'

interface ImageShelfProps {
  readonly project: string
  readonly images: readonly ShelfImage[]
  onSend(fields: Record<string, string>): void
  /** Asked for a material of an image, or for strand cards of its cut-out. */
  onMaterial(sha256: string, as: 'material' | 'strands'): void
}

/** Images that nodes may read; a file is added by choosing or dropping it. */
export function ImageShelf({ project, images, onSend, onMaterial }: ImageShelfProps) {
  const input = useRef<HTMLInputElement>(null)
  const loadAgain = useLoadAgain()
  const [busy, setBusy] = useState<string | null>(null)
  const [problems, setProblems] = useState<string[]>([])
  const [renaming, setRenaming] = useState<ShelfImage | null>(null)
  const { remove, notice } = useDeleted<ShelfImage>(
    ({ sha256 }) => onSend({ intent: 'delete-image', image: sha256 }),
    ({ sha256 }) => onSend({ intent: 'undelete-image', image: sha256 }),
  )
  const importImages = async (files: Iterable<File>): Promise<void> => {
    setProblems([])
    for (const file of files) {
      setBusy(file.name)
      const sent = await sendImage(file, project)
      if (typeof sent === 'string') setProblems((before) => [...before, sent])
    }
    setBusy(null)
    await loadAgain()
  }
  const { field, shown, none } = useImageSearch(images)
  return (
    <section
      aria-label="Images"
      className="mt-8"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault()
        void importImages(event.dataTransfer.files)
      }}
    >
      <div className="mb-2 flex items-center gap-4">
        <h2 className="text-head font-semibold">Images</h2>
        <Button onClick={() => input.current?.click()} disabled={busy !== null}>
          <Upload size={14} aria-hidden /> Add images
        </Button>
        {field}
        <span role="status" className="text-ink-soft">
          {busy ? `Reading ${busy} …` : 'Files can be dropped here.'}
        </span>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept={IMAGE_FILES}
          aria-label="Image files"
          onChange={(event) => void importImages(event.target.files ?? [])}
        />
      </div>
      {problems.map((problem) => (
        <p key={problem} role="alert" className="mb-2">
          ■ {problem}
        </p>
      ))}
      {notice}
      <ul className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-3">
        {shown.map((image) => (
          <ImageCard
            key={image.sha256}
            image={image}
            onMaterial={(as) => onMaterial(image.sha256, as)}
            onRename={() => setRenaming(image)}
            onDelete={() => remove(image)}
          />
        ))}
      </ul>
      {none}
      {renaming && (
        <NameDialog
          title="Rename the image"
          name={renaming.name}
          action="Rename"
          onName={(name) => onSend({ intent: 'rename-image', image: renaming.sha256, name })}
          onClose={() => setRenaming(null)}
        />
      )}
    </section>
  )
}

interface ImageCardProps {
  readonly image: ShelfImage
  onMaterial(as: 'material' | 'strands'): void
  onRename(): void
  onDelete(): void
}

function ImageCard({ image, onMaterial, onRename, onDelete }: ImageCardProps) {
  const { sha256, name, width, height, usedIn } = image
  return (
    <li className="flex min-w-0 flex-col rounded border border-rule bg-panel p-2">
      <img src={`/assets/${sha256}/thumbnail.png`} alt="" className="h-20 w-full bg-view object-contain" />
      <p className="mt-1 truncate" title={name}>
        <a href={`/assets/${sha256}/file`} className="hover:underline">
          {name}
        </a>
      </p>
      <p className="truncate text-ink-soft" title={usedIn.map((one) => `${one.name} of ${one.project}`).join(', ')}>
        {usedIn.length === 0
          ? 'Not used'
          : usedIn.map((one, i) => (
              <span key={one.id}>
                {i > 0 ? ', ' : 'In '}
                <Link to={`/documents/${one.id}`} className="hover:underline">
                  {one.name}
                </Link>
              </span>
            ))}
      </p>
      <p className="mt-auto truncate text-ink-soft">
        {width} × {height}, {image.float ? 'float' : `${image.bits} bits`}
      </p>
      <div className="flex items-center justify-end text-ink-soft">
        <IconButton icon={Layers} word="Material from" of={name} onClick={() => onMaterial('material')} />
        <IconButton icon={Wheat} word="Strand cards from" of={name} onClick={() => onMaterial('strands')} />
        <IconButton icon={Pencil} word="Rename" of={name} onClick={onRename} />
        <IconButton
          icon={Trash2}
          word="Delete"
          of={name}
          refused={usedIn.length > 0 ? 'A material uses it, or did in an earlier state' : undefined}
          onClick={onDelete}
        />
      </div>
    </li>
  )
}
