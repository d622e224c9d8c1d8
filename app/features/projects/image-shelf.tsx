import { Upload } from 'lucide-react'
import { useRef, useState } from 'react'
import { useRevalidator } from 'react-router'
import type { Asset } from '../../contracts/asset'
import { Button } from '../../ui/button'
import { sendImage } from '../../session/send-image'

/** Images that nodes may read; a file is added by choosing or dropping it. */
export function ImageShelf({ assets }: { assets: readonly Asset[] }) {
  const input = useRef<HTMLInputElement>(null)
  const revalidator = useRevalidator()
  const [busy, setBusy] = useState<string | null>(null)
  const [problems, setProblems] = useState<string[]>([])
  const importImages = async (files: Iterable<File>): Promise<void> => {
    setProblems([])
    for (const file of files) {
      setBusy(file.name)
      const sent = await sendImage(file)
      if (typeof sent === 'string') setProblems((before) => [...before, sent])
    }
    setBusy(null)
    await revalidator.revalidate()
  }
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
        <span role="status" className="text-ink-soft">
          {busy ? `Reading ${busy} …` : 'Shared by all projects. Files can be dropped here.'}
        </span>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept=".png,.jpg,.jpeg,.webp,.exr,.hdr,.tga"
          aria-label="Image files"
          onChange={(event) => void importImages(event.target.files ?? [])}
        />
      </div>
      {problems.map((problem) => (
        <p key={problem} role="alert" className="mb-2">
          ■ {problem}
        </p>
      ))}
      <ul className="flex flex-wrap gap-3">
        {assets.map((asset) => (
          <li key={asset.sha256} className="w-40 rounded border border-rule bg-panel p-2">
            <img src={`/assets/${asset.sha256}/thumbnail.png`} alt="" className="h-20 w-full bg-view object-contain" />
            <p className="mt-1 truncate" title={asset.name}>
              <a href={`/assets/${asset.sha256}/file`} className="hover:underline">
                {asset.name}
              </a>
            </p>
            <p className="text-ink-soft">
              {asset.width} × {asset.height}, {asset.float ? 'float' : `${asset.bits} bits`}
            </p>
          </li>
        ))}
      </ul>
    </section>
  )
}
