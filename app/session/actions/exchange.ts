import type { ExportSubject } from '#core/exchange/exported-pictures'
import { applyImport } from '#core/exchange/apply-import'
import type { ImportedPicture } from '#core/exchange/compare-import'
import type { ActionContext } from './context'
import type { FileWays } from './images'

/** Exports to image editors, and imports from them. */
export function exchangeActions({ set, edit, notify }: ActionContext, { addAsset }: Pick<FileWays, 'addAsset'>) {
  return {
    exportToEditor: (subject: ExportSubject): void => set({ exchange: { export: subject } }),
    /** Compares a file with the material; null asks for one. */
    importFromEditor: (file: File | null): void => set({ exchange: { import: file } }),
    /** Puts imported pictures in their places, in one step. False where a picture could not be kept; why is told. */
    async applyImport(pictures: readonly ImportedPicture[]): Promise<boolean> {
      const images: { picture: ImportedPicture; part: 'values' | 'opacity'; image: string }[] = []
      for (const picture of pictures)
        for (const part of ['values', 'opacity'] as const) {
          const png = picture[part]
          if (!png) continue
          const name = `${picture.title}, ${part === 'values' ? 'painted' : 'opacity'}.png`
          const sent = await addAsset(new File([new Uint8Array(png)], name, { type: 'image/png' }))
          if (typeof sent === 'string') {
            notify(`■ ${sent}`)
            return false
          }
          images.push({ picture, part, image: `sha256:${sent.sha256}` })
        }
      edit('Import from an image editor', (draft) => {
        for (const { picture, part, image } of images)
          applyImport(draft, picture.tag.output, image, picture.title, part)
      })
      return true
    },
  }
}
