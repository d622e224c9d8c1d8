import { RotateCw, Sun } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useActions, useView } from '../../session/material'
import { ImageField } from '../../session/parts/image-field'
import type { StageView } from '../../session/view'
import { BACKGROUNDS, DISPLACED, ENVIRONMENTS, SURROUNDINGS, STAGE } from '../../session/view'
import { Button } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import { FieldLabel, NumberField, ROW } from '../../ui/number-field'
import { raking } from './lights'
import { LampPad } from './lamp-pad'
import { LookFields } from './look-fields'

const itself = <T extends string>(values: readonly T[]) => values.map((value) => ({ value, word: value }))

/** Light, surroundings and looks of the lit material. */
export function LightMenu() {
  const actions = useActions()
  const stage = useView((view) => view.stage)
  const { lamp } = stage
  const set = (change: Partial<StageView>): void => actions.setStage(change)
  const setLamp = (change: Partial<StageView['lamp']>): void => set({ lamp: { ...lamp, ...change } })
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label="Light"
          title="Light: environment, lamp, surroundings, looks"
          className="grid size-[24px] place-items-center rounded text-ink-soft hover:text-ink"
        >
          <Sun size={14} aria-hidden />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          collisionPadding={8}
          aria-label="Light"
          className="z-40 flex max-h-[var(--radix-popover-content-available-height)] w-96 flex-col gap-2 overflow-auto rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
        >
          <Segments
            label="Environment"
            value={stage.environment}
            options={itself(ENVIRONMENTS)}
            onChange={(environment) => set({ environment })}
          />
          {stage.environment === 'own' && (
            <>
              <ImageField label="Environment picture" value={stage.picture} onChange={(picture) => set({ picture })} />
              <p className="text-ink-soft">
                A picture of all directions, twice as wide as high; HDR or EXR keep its light.
              </p>
            </>
          )}
          <NumberField
            label="Turn"
            help="Turns the environment around you. Arrow keys on the stage do it too."
            unit="turn"
            min={0}
            max={1}
            standard={STAGE.turn}
            value={stage.turn}
            onDrag={(turn) => set({ turn })}
            onDrop={() => {}}
          />
          <NumberField
            label="Exposure"
            unit="stops"
            min={-8}
            max={8}
            softRange={[-4, 4]}
            standard={STAGE.exposure}
            value={stage.exposure}
            onDrag={(exposure) => set({ exposure })}
            onDrop={() => {}}
          />
          <div className={ROW}>
            <FieldLabel label="Background" help="What stands behind a shape." />
            <span className="col-span-2 justify-self-start">
              <Segments
                label="Background"
                value={stage.background}
                options={itself(BACKGROUNDS)}
                onChange={(background) => set({ background })}
              />
            </span>
          </div>
          <div className={ROW}>
            <FieldLabel
              label="Surroundings"
              help="In a dim place what shines is eight times as bright beside the rest, in a bright one an eighth."
            />
            <span className="col-span-2 justify-self-start">
              <Segments
                label="Surroundings"
                value={stage.surroundings}
                options={itself(SURROUNDINGS)}
                onChange={(surroundings) => set({ surroundings })}
              />
            </span>
          </div>
          <fieldset className="flex flex-col gap-2 border-t border-rule pt-2">
            <div className="flex items-center gap-2">
              <label className="flex flex-1 items-center gap-2 font-semibold">
                <input
                  type="checkbox"
                  className="accent-accent"
                  checked={lamp.on}
                  onChange={(event) => setLamp({ on: event.target.checked })}
                />
                Lamp
              </label>
              <Button
                title="The lamp low over the surface, so that relief throws light and shade"
                onClick={() => setLamp({ on: true, at: raking(lamp) })}
              >
                Raking light
              </Button>
            </div>
            {lamp.on && (
              <div className="flex items-start gap-3">
                <LampPad at={lamp.at} flat={stage.mode === 'flat'} onMove={(at) => setLamp({ at })} />
                <div className="flex min-w-0 flex-1 flex-col gap-2 [&>div]:grid-cols-[5.5rem_minmax(0,1fr)_4.5rem]">
                  <NumberField
                    label="Strength"
                    min={0}
                    max={20}
                    softRange={[0, 8]}
                    standard={STAGE.lamp.strength}
                    value={lamp.strength}
                    onDrag={(strength) => setLamp({ strength })}
                    onDrop={() => {}}
                  />
                  <NumberField
                    label="Other light"
                    help="How much of the environment is left."
                    min={0}
                    max={1}
                    standard={STAGE.lamp.left}
                    value={lamp.left}
                    onDrag={(left) => setLamp({ left })}
                    onDrop={() => {}}
                  />
                  <p className="text-ink-soft">Drag the lamp, or hold K and point at the stage.</p>
                </div>
              </div>
            )}
          </fieldset>
          <LookFields />
          <fieldset className="flex flex-col gap-1.5 border-t border-rule pt-2">
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-accent"
                checked={stage.plain === 'relief'}
                onChange={(event) => set({ plain: event.target.checked ? 'relief' : 'no' })}
              />
              Plain grey, to see relief alone
            </label>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-accent"
                checked={stage.plain === 'form'}
                onChange={(event) => set({ plain: event.target.checked ? 'form' : 'no' })}
              />
              Plain grey without maps, to see the form alone
            </label>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-accent"
                checked={stage.dithered}
                onChange={(event) => set({ dithered: event.target.checked })}
              />
              Cut-out dithered
            </label>
            <span className="flex items-center gap-2">
              <span className="whitespace-nowrap">Height moves</span>
              <Choice
                label="Height moves"
                value={stage.displaced}
                options={DISPLACED.map((value) => ({ value, word: value === 'plane' ? 'the plane' : value }))}
                onChange={(displaced) => set({ displaced: displaced as StageView['displaced'] })}
              />
            </span>
          </fieldset>
          <Button variant="quiet" className="self-start" onClick={() => set(LIGHT_AT_START)}>
            <RotateCw size={13} aria-hidden /> As at the start
          </Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

const { environment, turn, exposure, background, surroundings, lamp, look, plain, dithered, displaced } = STAGE
const LIGHT_AT_START = { environment, turn, exposure, background, surroundings, lamp, look, plain, dithered, displaced }
