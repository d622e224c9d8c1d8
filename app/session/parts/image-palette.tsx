import { useEffect, useState } from 'react'
import type { PaletteColour } from '#core/colour/palette'
import { paletteOf } from '#core/colour/palette'
import { useActions } from '../material'

/** Colours that are shown of an image. */
const COUNT = 8

/** The colours that an image is made of; one that is pressed goes to the clipboard. */
export function ImagePalette({ sha256, name }: { sha256: string; name: string }) {
  const actions = useActions()
  const [found, setFound] = useState<{ readonly of: string; readonly colours: readonly PaletteColour[] } | null>(null)
  useEffect(() => {
    let wanted = true
    void coloursOf(`/assets/${sha256}/thumbnail.png`).then((colours) => wanted && setFound({ of: sha256, colours }))
    return () => {
      wanted = false
    }
  }, [sha256])
  if (found?.of !== sha256 || found.colours.length === 0) return null
  return (
    <ul aria-label={`Colours of ${name}`} className="flex gap-0.5">
      {found.colours.map(({ hex, share }) => (
        <li key={hex}>
          <button
            type="button"
            aria-label={`Copy ${hex}, ${Math.round(share * 100)} % of it`}
            title={`${hex}, ${Math.round(share * 100)} % of it. Press to copy`}
            onClick={() => {
              void navigator.clipboard.writeText(hex)
              actions.notify(`${hex} is on the clipboard.`)
            }}
            className="size-5 rounded-sm border border-rule-strong"
            style={{ background: hex }}
          />
        </li>
      ))}
    </ul>
  )
}

async function coloursOf(address: string): Promise<PaletteColour[]> {
  const image = new Image()
  image.src = address
  try {
    await image.decode()
  } catch {
    return []
  }
  const { naturalWidth: width, naturalHeight: height } = image
  const canvas = Object.assign(document.createElement('canvas'), { width, height })
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.drawImage(image, 0, 0)
  return paletteOf(context.getImageData(0, 0, width, height).data, COUNT)
}
