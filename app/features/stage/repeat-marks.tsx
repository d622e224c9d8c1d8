import { useEffect, useMemo, useState } from 'react'
import type { Conspicuous } from '#core/checks/conspicuous'
import { useEvaluation, useMaterial } from '../../session/material'
import { Marks } from './marks'
import type { StageRenderer } from './stage-renderer.client'

/** Deviations from which on a place shows that a surface is tiled, and beyond which it does at once: own choice, by eye over the demo. */
const SHOWS = 3.5
const AT_ONCE = 5

/** Rings around what shows first that the tile repeats, in each of the tiles, and how much it stands out. */
export function RepeatMarks({ renderer, repeat }: { renderer: StageRenderer; repeat: number }) {
  const { evaluation } = useMaterial()
  const state = useEvaluation((one) => one.state)
  const picture = useEvaluation((one) => one.textures.shown.colour?.key)
  const [found, setFound] = useState<Conspicuous | null>(null)
  useEffect(() => {
    if (state !== 'sharp') return
    let wanted = true
    void evaluation.conspicuous().then((place) => {
      if (wanted) setFound(place && 'error' in place ? null : place)
    })
    return () => {
      wanted = false
    }
  }, [evaluation, state, picture])
  const marks = useMemo(
    () =>
      found
        ? Array.from({ length: repeat * repeat }, (_, i): [number, number] => [
            found.at[0] + (i % repeat),
            found.at[1] + Math.floor(i / repeat),
          ])
        : [],
    [found, repeat],
  )
  return (
    <>
      <Marks renderer={renderer} marks={marks} />
      <p role="status" className="absolute bottom-10 left-3 rounded-md bg-raised px-2 py-0.5">
        {found
          ? `${found.deviations < SHOWS ? '●' : '▲'} The ${found.lighter > 0 ? 'lightest' : 'darkest'} place is ${found.deviations.toFixed(1)} deviations off its surroundings: ${
              found.deviations < SHOWS
                ? 'the repeat hardly shows.'
                : found.deviations < AT_ONCE
                  ? 'the repeat shows.'
                  : 'the repeat shows at once.'
            }`
          : 'No place stands out.'}
      </p>
    </>
  )
}
