import { useRef, useState } from 'react'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { BAKE_SIZES, QUALITIES, RAY_STEPS, qualityOf } from '#core/mesh/bake-settings'
import type { Quality } from '#core/mesh/bake-settings'
import { SAMPLE_COUNTS } from '#core/mesh/raster'
import { Choice, Segments } from '../../ui/choice'
import { FieldLabel, NumberField, ROW } from '../../ui/number-field'
import { optionsOfModel, useModel } from './model-context'

type LengthName = 'reach' | 'thickest' | 'radius' | 'front' | 'back' | 'bias' | 'leakLength'

const LENGTHS: readonly { name: LengthName; label: string; help: string }[] = [
  {
    name: 'front',
    label: 'Twin outward',
    help: 'How far outside of the surface rays to the high twin begin. With a cage they begin there.',
  },
  { name: 'back', label: 'Twin inward', help: 'How far inside of the surface the high twin is still looked for.' },
  {
    name: 'reach',
    label: 'Occlusion reach',
    help: 'How far rays of occlusion and light look; what is farther hides nothing.',
  },
  { name: 'bias', label: 'Bias', help: 'How far off the surface rays begin, so that it does not hide itself.' },
  { name: 'radius', label: 'Radius', help: 'Within which curvature and rounded edges look at the surface.' },
  { name: 'thickest', label: 'Thickest', help: 'Thickness beyond which nothing is told apart.' },
  { name: 'leakLength', label: 'Leak length', help: 'How long runs of water are at most.' },
]

const SHARES = [
  {
    name: 'fade',
    label: 'Occlusion fade',
    help: 'The part of the reach over which what is far hides less and less.',
    unit: '',
    max: 1,
  },
  {
    name: 'spreadTurns',
    label: 'Occlusion spread',
    help: 'Half the opening of the cone that occlusion looks into: a quarter turn is the whole hemisphere.',
    unit: 'turns',
    max: 0.25,
  },
  {
    name: 'coneTurns',
    label: 'Thickness cone',
    help: 'Half the opening of the cone that thickness looks into.',
    unit: 'turns',
    max: 0.25,
  },
  {
    name: 'leakVariation',
    label: 'Leak variation',
    help: 'How much the lengths of runs of water differ from place to place.',
    unit: '',
    max: 1,
  },
  {
    name: 'sunHeightTurns',
    label: 'Sun height',
    help: 'Of the kind Light: how high the sun stands over the horizon.',
    unit: 'turns',
    max: 0.25,
  },
  {
    name: 'sunTurns',
    label: 'Sun direction',
    help: 'Of the kind Light: its way from the front of the model towards its right.',
    unit: 'turns',
    max: 1,
  },
  {
    name: 'sunShare',
    label: 'Sun share',
    help: 'Of the kind Light: how much of it is sun; the rest is sky.',
    unit: '',
    max: 1,
  },
] as const

/** The image that is transferred, and where it lies. */
function TransferImage({ settings, save }: { settings: BakeSettings; save(change: Partial<BakeSettings>): void }) {
  const { images, model } = useModel()
  return (
    <>
      <h3 className="mt-2 font-semibold">Transfer</h3>
      <Row label="Image" help="Carried over onto this model’s layout as the kind Transfer.">
        <Choice
          label="Image to transfer"
          value={settings.transferImage ?? ''}
          options={[
            { value: '', word: 'none' },
            ...images.filter(({ here }) => here).map(({ sha256, name }) => ({ value: sha256, word: name })),
          ]}
          onChange={(image) => save({ transferImage: image || null })}
        />
      </Row>
      {settings.transferImage !== null && (
        <>
          <Row
            label="It lies on"
            help="On the high twin a place is looked for; another UV set of the model needs none."
          >
            <Segments
              label="It lies on"
              value={settings.transferFrom === 1 && model.high ? 'high' : 'own'}
              options={[
                { value: 'own', word: 'The model itself' },
                ...(model.high ? [{ value: 'high' as const, word: 'The high twin' }] : []),
              ]}
              onChange={(from) => save({ transferFrom: from === 'high' ? 1 : 0 })}
            />
          </Row>
          {settings.transferFrom === 1 && model.high && (
            <Row
              label="Found by"
              help="A ray along the normal, or the nearest place wherever it is, as far off as the larger of Twin outward and Twin inward."
            >
              <Segments
                label="Found by"
                value={settings.transferBy === 1 ? 'nearest' : 'ray'}
                options={[
                  { value: 'ray', word: 'A ray' },
                  { value: 'nearest', word: 'The nearest place' },
                ]}
                onChange={(by) => save({ transferBy: by === 'nearest' ? 1 : 0 })}
              />
            </Row>
          )}
          <Row label="In its UV set" help="From the first.">
            <Choice
              label="UV set of the image"
              value={String(settings.transferSet)}
              options={[0, 1, 2, 3].map((set) => ({ value: String(set), word: String(set + 1) }))}
              onChange={(set) => save({ transferSet: Number(set) })}
            />
          </Row>
        </>
      )}
    </>
  )
}

const RAY_STEP_WORDS = {
  1: 'every texel',
  2: 'every second texel',
  4: 'every fourth texel',
  6: 'every sixth texel',
} as const

/** How mesh data are baked. A change makes what depends on it stale. */
export function BakeSettingsPane() {
  const { model, send } = useModel()
  const [draft, setDraft] = useState<BakeSettings | null>(null)
  const settings = draft ?? model.settings
  const standard = optionsOfModel({ ...model, settings: { ...settings, ...noLengths } })
  // A number that is typed moves and rests at once, before anything is drawn anew.
  const moved = useRef<Partial<BakeSettings> | null>(null)
  const save = (change: Partial<BakeSettings>): void => {
    moved.current = null
    setDraft(null)
    send({ intent: 'settings', settings: change })
  }
  const drag = (change: Partial<BakeSettings>): void => {
    moved.current = { ...moved.current, ...change }
    setDraft({ ...settings, ...change })
  }
  const drop = (): void => {
    if (moved.current) save(moved.current)
  }
  const quality = qualityOf(settings)
  return (
    <div className="grid max-w-[44rem] gap-2 p-3">
      <div className={ROW}>
        <FieldLabel
          label="Quality"
          help="Samples a texel, rays that they share, and from which texels rays are sent."
        />
        <Segments
          label="Quality"
          value={quality ?? ''}
          options={(Object.keys(QUALITIES) as Quality[]).map((value) => ({
            value,
            word: value[0]!.toUpperCase() + value.slice(1),
          }))}
          onChange={(name) => save(QUALITIES[name])}
        />
        <span className="text-note text-ink-soft">{quality === null && 'of one’s own'}</span>
      </div>
      <Row label="Size" help="Texels a side of each tile.">
        <Choice
          label="Size"
          value={String(settings.size)}
          options={BAKE_SIZES.map((size) => ({ value: String(size), word: `${size} × ${size}` }))}
          onChange={(size) => save({ size: Number(size) as BakeSettings['size'] })}
        />
      </Row>
      <Row label="Samples" help="Places within a texel that are averaged.">
        <Choice
          label="Samples"
          value={String(settings.samples)}
          options={SAMPLE_COUNTS.map((count) => ({ value: String(count), word: `${count} a texel` }))}
          onChange={(count) => save({ samples: Number(count) as BakeSettings['samples'] })}
        />
      </Row>
      <NumberField
        label="Rays"
        help="Rays a texel, of occlusion, bent normals, thickness and light; its samples share them."
        whole
        min={1}
        max={4096}
        softRange={[1, 256]}
        standard={64}
        value={settings.rays}
        onDrag={(rays) => drag({ rays })}
        onDrop={drop}
      />
      <Row
        label="Ray step"
        help="Texels from one to the next that rays are sent from, for what rays make: a draft blends what lies between. Where the surface turns, more are."
      >
        <Choice
          label="Ray step"
          value={String(settings.rayStep)}
          options={RAY_STEPS.map((step) => ({ value: String(step), word: RAY_STEP_WORDS[step] }))}
          onChange={(step) => save({ rayStep: Number(step) as BakeSettings['rayStep'] })}
        />
      </Row>
      <NumberField
        label="Padding"
        help="Texels around islands that are filled from the nearest of them."
        unit="texels"
        whole
        min={0}
        max={512}
        softRange={[0, 64]}
        standard={16}
        value={settings.padding}
        onDrag={(padding) => drag({ padding })}
        onDrop={drop}
      />
      <Row
        label="Beyond 0–1"
        help="Whether UVs there are tiles of their own (UDIM), or repeat the first and are left out."
      >
        <Segments
          label="Beyond 0–1"
          value={settings.outside}
          options={[
            { value: 'tiles', word: 'Tiles of their own' },
            { value: 'repeats', word: 'Repeat the first' },
          ]}
          onChange={(outside) => save({ outside })}
        />
      </Row>
      <h3 className="mt-2 font-semibold">Lengths</h3>
      {LENGTHS.map(({ name, label, help }) => (
        <NumberField
          key={name}
          label={label}
          help={`${help} Double-press for what the size of the model gives.`}
          unit="m"
          min={1e-9}
          max={1e6}
          softRange={[0, standard[name] * 4]}
          standard={standard[name]}
          value={settings[name] ?? standard[name]}
          onDrag={(value) => drag({ [name]: value === standard[name] ? null : value })}
          onDrop={drop}
        />
      ))}
      <TransferImage settings={settings} save={save} />
      <h3 className="mt-2 font-semibold">Directions and joins</h3>
      {SHARES.map(({ name, label, help, unit, max }) => (
        <NumberField
          key={name}
          label={label}
          help={help}
          unit={unit}
          min={0}
          max={max}
          standard={standard[name]}
          value={settings[name]}
          onDrag={(value) => drag({ [name]: value })}
          onDrop={drop}
        />
      ))}
    </div>
  )
}

const noLengths = Object.fromEntries(LENGTHS.map(({ name }) => [name, null]))

function Row({ label, help, children }: { label: string; help: string; children: React.ReactNode }) {
  return (
    <div className={ROW}>
      <FieldLabel label={label} help={help} />
      <span className="col-span-2 flex">{children}</span>
    </div>
  )
}
