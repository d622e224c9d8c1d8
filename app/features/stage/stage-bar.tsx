import { channelOutput } from '#core/document/address'
import { formatStageOutput, parseStageOutput, sameOutput } from '#core/texture/stage-output'
import type { StageOutput } from '#core/texture/stage-output'
import { Eclipse, Maximize, MousePointerClick, Repeat, X } from 'lucide-react'
import { memo } from 'react'
import { channelsOf } from '#core/document/channels'
import { Choice, Segments } from '../../ui/choice'
import { ToolButton } from '../../ui/tool-button'
import { useActions, useUndialled, useView } from '../../session/material'
import { SHAPES, shapeInWords } from '../../session/view'
import { LightMenu } from './light-menu'
import { shownInWords } from './shown-in-words'
import type { StageRenderer } from './stage-renderer.client'

/** The choice that is no output; no output is written so. */
const LIT = ':lit'
const REPEATS = [1, 2, 3, 4, 5, 6, 7, 8]

/** What is on the stage and how: output, view, shape, light. */
export const StageBar = memo(function StageBar({
  extraOutputs,
  renderer,
  readOnly,
}: {
  /** What can be shown besides the channels. */
  extraOutputs: readonly { output: StageOutput; word: string }[]
  renderer: StageRenderer | null
  readOnly: boolean
}) {
  const actions = useActions()
  const document = useUndialled()
  const stage = useView((view) => view.stage)
  const compared = useView((view) => view.compared)
  const width = useView((view) => view.width)
  const asking = useView((view) => view.asking)
  const repeatMarked = useView((view) => view.repeatMarked)
  const channels = channelsOf(document)
  const { shown } = stage
  const offered = [
    ...channels.map(({ id, title }) => ({ output: channelOutput(id), word: `${title.toLowerCase()}, unlit` })),
    ...extraOutputs,
  ]
  const known = shown === null || offered.some(({ output }) => sameOutput(output, shown))
  const onParts = document.domain.kind === 'part'
  const options = [
    { value: LIT, word: 'lit material' },
    ...[...offered, ...(known ? [] : [{ output: shown, word: shownInWords(document, shown) }])].map(
      ({ output, word }) => ({ value: formatStageOutput(output), word }),
    ),
  ]
  return (
    <div className="pointer-events-none absolute inset-x-2 top-2 flex flex-wrap items-start gap-1.5 *:pointer-events-auto">
      <Choice
        label="What is shown"
        value={shown ? formatStageOutput(shown) : LIT}
        options={options}
        onChange={(value) => actions.setStage({ shown: value === LIT ? null : parseStageOutput(value) })}
        className="max-w-52"
      />
      {shown !== null && (
        <span className="rounded bg-raised">
          <ToolButton icon={X} word="Back to the lit material" onClick={() => actions.setStage({ shown: null })} />
        </span>
      )}
      <span className="flex-1" />
      <Segments
        label="View"
        value={stage.mode}
        options={[
          { value: 'model', word: 'Shape' },
          { value: 'flat', word: 'Flat' },
          { value: 'part', word: 'Model' },
        ]}
        onChange={(mode) => actions.setStage({ mode })}
      />
      {stage.mode === 'model' && (
        <Choice
          label="Shape"
          value={stage.shape}
          options={SHAPES.map((value) => ({ value, word: shapeInWords(value) }))}
          onChange={(shape) => actions.setStage({ shape: shape as typeof stage.shape })}
        />
      )}
      {stage.mode !== 'part' && (
        <Choice
          label="Tiles along a side"
          value={String(stage.repeat)}
          options={REPEATS.map((n) => ({ value: String(n), word: `${n} × ${n}` }))}
          onChange={(n) => actions.setStage({ repeat: Number(n) })}
        />
      )}
      <span className={`flex rounded bg-raised ${stage.mode === 'part' && !onParts ? 'hidden' : ''}`}>
        {stage.mode === 'flat' && !readOnly && (
          <ToolButton
            icon={Repeat}
            word="Where the repeat shows"
            tip="Rings around the place that shows first that the tile repeats"
            pressed={repeatMarked}
            onClick={() => actions.setView({ repeatMarked: !repeatMarked })}
          />
        )}
        {stage.mode === 'flat' && (
          <button
            type="button"
            aria-label="One texel a pixel"
            title="One texel a pixel"
            onClick={() => renderer?.oneToOne(width)}
            className="px-1.5 font-mono text-note text-ink-soft hover:text-ink"
          >
            1:1
          </button>
        )}
        {!readOnly && (
          <ToolButton
            icon={Eclipse}
            word="Mask over the surface"
            tip="The chosen mask, cell or node in a loud colour over the surface (hold M)"
            pressed={stage.overlay}
            onClick={() => actions.setStage({ overlay: !stage.overlay })}
          />
        )}
        {!readOnly && (
          <ToolButton
            icon={MousePointerClick}
            word="What lies here"
            tip="Press on the stage: the layers there, top first, and the value shown (Alt press, or I for the middle)"
            pressed={asking}
            onClick={() => actions.setView({ asking: !asking })}
          />
        )}
        <ToolButton icon={Maximize} word="Show all of it" onClick={() => renderer?.fit()} />
        <LightMenu />
        {compared && (
          <ToolButton
            icon={X}
            word="End the comparison"
            onClick={() => actions.setView({ compared: null, versus: null })}
          />
        )}
      </span>
    </div>
  )
})
