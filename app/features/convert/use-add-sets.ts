import { useState } from 'react'
import { useFetcher } from 'react-router'
import type { PlacedFile } from '../../session/dropped-files'
import { sendImage } from '../../session/send-file'
import { setsOfFiles } from './sets-of-files'

/** Sends files as sets, one after the other, and tells how far it is. */
export function useAddSets(onAdded: () => void) {
  const fetcher = useFetcher()
  const [busy, setBusy] = useState<string | null>(null)
  const [problems, setProblems] = useState<readonly string[]>([])
  const add = async (placed: readonly PlacedFile[]): Promise<void> => {
    const sets = setsOfFiles(placed)
    setProblems(
      sets.length === 0 && placed.length > 0 ? ['None of these files is an image of a kind that is read.'] : [],
    )
    const total = sets.reduce((sum, { files }) => sum + files.length, 0)
    let sent = 0
    for (const { name, files } of sets) {
      const known: { sha256: string; name: string }[] = []
      for (const file of files) {
        setBusy(`Reading ${file.name}, ${++sent} of ${total} …`)
        const answer = await sendImage(file)
        if (typeof answer === 'string') setProblems((before) => [...before, answer])
        else known.push({ sha256: answer.sha256, name: file.name.slice(-200) })
      }
      if (known.length > 64)
        setProblems((before) => [...before, `${name}: a set has at most 64 files; the first 64 are taken.`])
      if (known.length === 0) continue
      await fetcher.submit(
        { intent: 'add', set: JSON.stringify({ name: name.slice(0, 100), files: known.slice(0, 64) }) },
        { method: 'post' },
      )
      onAdded()
    }
    setBusy(null)
  }
  const problem = (fetcher.data as { problem?: string } | undefined)?.problem
  return { add, busy, problems: problem ? [...problems, problem] : problems }
}
