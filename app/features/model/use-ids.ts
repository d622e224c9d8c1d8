import { useEffect, useState } from 'react'
import type { IdKind } from '#core/picked-ids'
import { meshAddress } from '../../session/model/addresses'
import { modelWorker } from '../../session/model/model-worker'
import { useModel } from './model-context'

/** The numbers of a kind of ID that a part has; null until they are known. */
export function useIds(part: number, kind: IdKind | null): readonly number[] | null {
  const { model } = useModel()
  const address = meshAddress(model, 'low')!
  const { uvSet } = model.settings
  const of = `${address} ${part} ${uvSet} ${kind}`
  const [known, setKnown] = useState<{ readonly of: string; readonly numbers: readonly number[] } | null>(null)
  useEffect(() => {
    if (kind === null) return
    let wanted = true
    void modelWorker()
      .idsOf(address, part, uvSet, kind)
      .then(
        (numbers) => wanted && setKnown({ of, numbers }),
        // The view of the model says what cannot be read.
        () => {},
      )
    return () => {
      wanted = false
    }
  }, [address, part, uvSet, kind, of])
  return known?.of === of ? known.numbers : null
}
