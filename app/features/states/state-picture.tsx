import { useEffect, useRef, useState } from 'react'
import { parseDocument } from '#core/document/document'
import type { DisplayBytes } from '#core/preview/display'
import { ask } from '../../session/ask'
import type { Material } from '../../session/material'
import { useMaterial } from '../../session/material'
import { Picture } from '../../ui/picture'

/** Pictures that were made, by document and revision; a revision never changes. */
const made = new Map<string, DisplayBytes | null>()
const KEPT = 200
/** One after the other: they are made beside what is worked on. */
let queue: Promise<unknown> = Promise.resolve()

async function make({ id, evaluation }: Material, revision: number): Promise<DisplayBytes | null> {
  const key = `${id} ${revision}`
  if (made.has(key)) return made.get(key)!
  await untilSharp(evaluation.store)
  try {
    const response = await ask(`/documents/${id}/revisions/${revision}`)
    const picture = response.ok ? await evaluation.picture(parseDocument(await response.json())) : null
    made.set(key, picture)
    if (made.size > KEPT) made.delete(made.keys().next().value!)
    return picture
  } catch {
    // The server is away, or the state is of a program that knew other nodes: there is no picture.
    return null
  }
}

/** Resolves once nothing more important is being drawn. */
const untilSharp = (store: Material['evaluation']['store']): Promise<void> =>
  new Promise((resolve) => {
    const settled = (): boolean => ['sharp', 'failed'].includes(store.getState().state)
    if (settled()) return resolve()
    const end = store.subscribe(() => {
      if (!settled()) return
      end()
      resolve()
    })
  })

/** A state lit, small; made when it comes into view. */
export function StatePicture({ revision }: { revision: number }) {
  const material = useMaterial()
  const place = useRef<HTMLSpanElement>(null)
  const [picture, setPicture] = useState<DisplayBytes | null>(made.get(`${material.id} ${revision}`) ?? null)
  useEffect(() => {
    let wanted = true
    const seen = new IntersectionObserver(([entry]) => {
      if (!entry?.isIntersecting) return
      seen.disconnect()
      queue = queue.then(async () => {
        // What was scrolled away in the meantime is passed by.
        if (!wanted) return
        const found = await make(material, revision)
        if (wanted) setPicture(found)
      })
    })
    seen.observe(place.current!)
    return () => {
      wanted = false
      seen.disconnect()
    }
  }, [material, revision])
  return (
    <span ref={place} className="size-7 shrink-0">
      <Picture picture={picture ?? undefined} className="size-7 rounded-sm" />
    </span>
  )
}
