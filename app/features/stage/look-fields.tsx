import { useActions, useView } from '../../session/material'
import { ImageField } from '../../session/parts/image-field'
import type { StrandView } from '../../session/view'
import { NEUTRAL_STRANDS } from '../../session/view'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { ColourBox } from '../../ui/colour-field'
import { FieldLabel, NumberField, ROW } from '../../ui/number-field'
import type { Look } from '#core/preview/looks'
import { LOOKS } from '#core/preview/looks'

const WORDS: Readonly<Record<Look, string>> = {
  'metal-rough': 'Metal and roughness',
  'specular-gloss': 'Specular and gloss',
  older: 'Older renderer',
  strands: 'Strands',
}
const ABOUT: Readonly<Record<Look, string | null>> = {
  'metal-rough': null,
  'specular-gloss': 'By the diffuse and specular colours that a delivery of this workflow holds.',
  older:
    'By diffuse and specular tint; strength is how tight highlights are. Highlights come from lamps alone; the environment lights evenly.',
  strands:
    'Tones mixed by the channels root, tip and tone, as a renderer of strand cards does. Begin neutral, turn on one at a time.',
}

/** How the surface is lit: by the workflow of the renderer that the material is for. */
export function LookFields() {
  const actions = useActions()
  const look = useView((view) => view.stage.look)
  const about = ABOUT[look]
  return (
    <fieldset className="flex flex-col gap-2 border-t border-rule pt-2">
      <div className={ROW}>
        <FieldLabel label="Lit as" help="How the renderer that the material is for lights its surface." />
        <span className="col-span-2 justify-self-start">
          <Choice
            label="Lit as"
            value={look}
            options={LOOKS.map((value) => ({ value, word: WORDS[value] }))}
            onChange={(value) => actions.setStage({ look: value as Look })}
          />
        </span>
      </div>
      {about && <p className="text-ink-soft">{about}</p>}
      {look === 'strands' && <StrandFields />}
    </fieldset>
  )
}

function StrandFields() {
  const actions = useActions()
  const strand = useView((view) => view.stage.strand)
  const set = (change: Partial<StrandView>): void => actions.setStage({ strand: { ...strand, ...change } })
  const tone = (name: 'dark' | 'light' | 'root' | 'tip', label: string) => (
    <div className={ROW}>
      <FieldLabel label={label} />
      <span className="col-span-2">
        <ColourBox
          label={label}
          value={strand[name]}
          standard={NEUTRAL_STRANDS[name]}
          onDrag={(value) => set({ [name]: value })}
          onDrop={() => {}}
        />
      </span>
    </div>
  )
  const number = (
    name: 'rootReach' | 'tipReach' | 'shine' | 'tightness' | 'tiles' | 'depth',
    label: string,
    range: { readonly min: number; readonly max: number; readonly whole?: boolean },
    help: string,
  ) => (
    <NumberField
      label={label}
      help={help}
      {...range}
      standard={NEUTRAL_STRANDS[name]}
      value={strand[name]}
      onDrag={(value) => set({ [name]: value })}
      onDrop={() => {}}
    />
  )
  return (
    <>
      {tone('dark', 'Dark strands')}
      {tone('light', 'Light strands')}
      {tone('root', 'Roots')}
      {tone('tip', 'Tips')}
      {number(
        'rootReach',
        'Reach of roots',
        { min: 0, max: 4 },
        'How far up their tone goes: 1 as far as the mask, 0 nowhere.',
      )}
      {number(
        'tipReach',
        'Reach of tips',
        { min: 0, max: 4 },
        'How far down their tone goes: 1 as far as the mask, 0 nowhere.',
      )}
      {number('shine', 'Highlight', { min: 0, max: 4 }, 'How bright the highlight across strands is.')}
      {number('tightness', 'Tightness', { min: 1, max: 400 }, 'How narrow the highlight is.')}
      <FieldLabel label="Second normal map" help="Fine relief that is tiled over the card: frizz, fibres." />
      <ImageField label="Second normal map" value={strand.normal} onChange={(normal) => set({ normal })} />
      {strand.normal !== '' && (
        <>
          {number('tiles', 'Tiles', { min: 1, max: 64, whole: true }, 'How often it lies on the card.')}
          {number('depth', 'Depth', { min: 0, max: 4 }, 'How strong it is.')}
        </>
      )}
      <Button variant="quiet" className="self-start" onClick={() => actions.setStage({ strand: NEUTRAL_STRANDS })}>
        Neutral
      </Button>
    </>
  )
}
