import { useState } from 'react'
import { LARGE } from '../../../runtime/browser/protocol'
import type { LargeForecast } from '../../../runtime/browser/protocol'
import { useActions, useMaterial, useView } from '../../session/material'
import { PREVIEW_WIDTHS } from '../../session/view'
import { Choice } from '../../ui/choice'
import { bytesInWords } from '../../ui/words'

const FOLLOWS = 'follows'

/** The stage's greatest width; what a large preview needs is told before it is chosen. */
export function PreviewSize() {
  const actions = useActions()
  const { evaluation } = useMaterial()
  const width = useView((view) => view.width)
  const follows = useView((view) => view.widthFollows)
  const [forecasts, setForecasts] = useState<Readonly<Record<number, LargeForecast | null>>>({})
  const look = (): void => {
    for (const one of PREVIEW_WIDTHS)
      if (one > LARGE)
        void evaluation.forecastLarge(one).then((forecast) => setForecasts((all) => ({ ...all, [one]: forecast })))
  }
  return (
    <Choice
      label="Preview size"
      value={follows ? FOLLOWS : String(width)}
      options={[
        { value: FOLLOWS, word: follows ? `${width}, as the stage` : 'as the stage' },
        ...PREVIEW_WIDTHS.map((one) => {
          const forecast = one > LARGE ? (forecasts[one] ?? null) : null
          const refused = forecast !== null && 'refusal' in forecast
          return {
            value: String(one),
            word: `${one}${forecast ? inWords(forecast) : ''}`,
            // What is chosen already can be chosen away from only.
            disabled: refused && one !== width,
          }
        }),
      ]}
      onChange={(value) =>
        actions.setView(
          value === FOLLOWS ? { widthFollows: true } : { width: Number(value) as typeof width, widthFollows: false },
        )
      }
      onLook={look}
      className="py-0"
    />
  )
}

const inWords = (forecast: LargeForecast): string =>
  'refusal' in forecast ? ' (needs more than 2 GB)' : ` (takes ${bytesInWords(forecast.bytes)})`
