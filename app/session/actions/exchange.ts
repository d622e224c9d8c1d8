import type { GoingOut } from '#core/exchange/exchanged'
import { putBack } from '#core/exchange/put-back'
import type { CameBack } from '#core/exchange/take-back'
import type { ActionContext } from './context'
import type { FileWays } from './images'

/** To image editors and back. */
export function exchangeActions({ set, edit, notify }: ActionContext, { addAsset }: Pick<FileWays, 'addAsset'>) {
  return {
    sendOut: (out: GoingOut): void => set({ exchange: { out } }),
    /** Looks at a file that came back; null asks for one. */
    takeIn: (file: File | null): void => set({ exchange: { back: file } }),
    /** Puts what came back in its place, in one step. False where a picture could not be kept; why is told. */
    async putBack(pictures: readonly CameBack[]): Promise<boolean> {
      const images: { picture: CameBack; part: 'values' | 'opacity'; image: string }[] = []
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
      edit('Take in what was painted', (draft) => {
        for (const { picture, part, image } of images) putBack(draft, picture.tag.output, image, picture.title, part)
      })
      return true
    },
  }
}
