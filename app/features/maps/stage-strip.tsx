import { metresOf } from '#core/document/domain'
import { formatStageOutput, isFileOutput } from '#core/texture/stage-output'
import { mipSides } from '#core/texture/bytes/mip-sides'
import { Choice, Segments } from '../../ui/choice'
import { useActions, useUndialled, useEvaluation, useView } from '../../session/material'
import { useDelivering } from './deliveries-context'
import type { Delivered } from './maps'
import { useMaps, useMapsView } from './maps'
import { useFiles } from './files'
import { formInWords, lossInWords } from './slot-words'

/** Longest side of a delivered file that is shown; of a larger one only the smaller mips can be looked at. */
const LARGEST_SHOWN = 2048

/** A mip level that can be looked at. */
interface Mip {
  readonly level: number
  readonly width: number
  readonly height: number
}

/** What is beside the source on the stage: the files as they are made now or were delivered, and at which mip. */
export function StageStrip() {
  const { view } = useMaps()
  const delivered = useMapsView((one) => one.delivered)
  const shown = useView((one) => one.stage.shown)
  const { deliveries } = useDelivering()
  const reading = useEvaluation((one) => one.delivered)
  const { files } = useFiles()
  const actions = useActions()
  const fileOnly = isFileOutput(shown)
  const set = (change: Partial<Delivered>): void => view.setState({ delivered: { ...delivered, ...change } })
  const mipsOf = useMipsOf()
  const mips = mipsOf(delivered.from)
  const seen = delivered.mode !== 'source' || fileOnly
  return (
    <div
      className="flex shrink-0 flex-wrap items-center gap-2 border-b border-rule bg-panel px-3 py-1.5"
      data-guide="delivered"
    >
      <Segments
        label="As delivered"
        value={fileOnly && delivered.mode !== 'difference' ? 'delivered' : delivered.mode}
        options={[
          { value: 'source', word: 'Source' },
          { value: 'beside', word: 'Beside' },
          { value: 'delivered', word: 'As delivered' },
          { value: 'difference', word: 'Difference' },
        ]}
        onChange={(mode) => {
          if (mode !== 'difference') return set({ mode })
          // It is that of a file as it is packed now.
          const [first] = files
          if (shown === null && first) actions.setStage({ shown: { kind: 'file', map: first.map } })
          set({ mode, ...(delivered.from === 'now' ? {} : { from: 'now', mip: mipsOf('now')[0]!.level }) })
        }}
      />
      <Choice
        label="Source of the files"
        value={delivered.from}
        options={[
          { value: 'now', word: 'as packed now' },
          ...deliveries.map(({ id, number, width, revision }) => ({
            value: id,
            word: `${number === null ? 'delivery' : `#${number}`}, ${width}, revision ${revision}`,
          })),
        ]}
        onChange={(from) =>
          set({
            from,
            mip: mipsOf(from)[0]!.level,
            ...(delivered.mode === 'source' || delivered.mode === 'difference' ? { mode: 'beside' as const } : {}),
          })
        }
        className="max-w-40"
      />
      <Choice
        label="Mip level"
        value={String(delivered.mip)}
        options={mips.map(({ level, width, height }) => ({
          value: String(level),
          word: `mip ${level}: ${width} × ${height}`,
        }))}
        onChange={(mip) =>
          set({ mip: Number(mip), ...(delivered.mode === 'source' ? { mode: 'beside' as const } : {}) })
        }
      />
      <FileWord />
      {seen && reading.state === 'working' && (
        <span role="status" className="font-mono text-note text-ink-soft">
          ◌ reading
        </span>
      )}
      {seen && reading.state === 'failed' && (
        <span role="alert" className="w-full">
          ■ {reading.problem}
        </span>
      )}
    </div>
  )
}

/** The mips that can be looked at of what is packed now ("now"), or of a delivery by its id. */
function useMipsOf(): (from: string) => Mip[] {
  const { deliveries } = useDelivering()
  const width = useView((one) => one.width)
  const metres = metresOf(useUndialled())
  return (from) => {
    const delivery = deliveries.find(({ id }) => id === from)
    const sides = delivery
      ? mipSides(delivery.width, delivery.height)
      : mipSides(width, Math.max(1, Math.round((width * metres[1]) / metres[0])))
    return sides
      .map(([across, down], level) => ({ level, width: across, height: down }))
      .filter((mip) => Math.max(mip.width, mip.height) <= LARGEST_SHOWN)
  }
}

export function useMips(): Mip[] {
  return useMipsOf()(useMapsView((one) => one.delivered.from))
}

/** Begins to look at a delivery beside its source, at the largest mip that can be shown. */
export function useLookAt(): (from: string) => void {
  const { view } = useMaps()
  const mipsOf = useMipsOf()
  return (from) => view.setState({ delivered: { mode: 'beside', from, mip: mipsOf(from)[0]!.level }, marked: null })
}

/** How the file that brings what is on the stage is written. */
function FileWord() {
  const shown = useView((one) => one.stage.shown)
  const delivered = useMapsView((one) => one.delivered)
  const dither = useMapsView((one) => one.settings.dither)
  const { loss, gain } = useEvaluation((one) => one.deliveredLoss)
  const { files } = useFiles()
  const { deliveries } = useDelivering()
  if (shown === null || (delivered.mode === 'source' && !isFileOutput(shown))) return null
  const delivery = deliveries.find(({ id }) => id === delivered.from)
  const brings = ({ map, slots }: { map: string; slots: readonly object[] }): boolean =>
    isFileOutput(shown)
      ? map === shown.map
      : slots.some((slot) => 'channel' in slot && slot.channel === formatStageOutput(shown))
  const file = delivery ? delivery.forms.find(brings) : files.find(brings)
  const words = file
    ? [
        `${file.map}: ${formInWords(file, delivery ? delivery.dither : dither)}`,
        ...(loss ? [lossInWords(loss)] : []),
        ...(gain === null ? [] : [`what is lost × ${gain}`]),
      ].join(' · ')
    : '▲ in no file'
  return (
    <span className="min-w-48 flex-1 basis-0 truncate font-mono text-note text-ink-soft" title={words}>
      {words}
    </span>
  )
}
