import { basename, resolve } from 'node:path'
import type { CheckSubject } from '#core/checks/subject'
import type { MaterialDocument } from '#core/document/document'
import type { SetFile, SetSlot, Workflow } from '#core/document/document-of-set'
import { WORKFLOWS, channelsMadeOf, documentOfSet, needsModel, workflowOf } from '#core/document/document-of-set'
import { GristError } from '#core/errors'
import { judgeFolder } from '#runtime/node/read-delivery'
import type { Options } from './options'

/** A folder of maps as a material whose cells read its files. */
export interface SetMaterial {
  readonly document: MaterialDocument
  /** Texels of its largest files. */
  readonly width: number
  /** Channels that it leads to. */
  readonly channels: ReadonlySet<string>
}

/** Reads a folder of maps by names and contents and says what it took each for. Throws usage, file-invalid. */
export async function setMaterial(folder: string, options: Options): Promise<SetMaterial> {
  const { subjects, roles, unknown } = await judgeFolder(folder, { isOneSet: true })
  const [largest, ...smaller] = subjects
  const { width, height } = largest!
  const depth = options.text('height') === undefined ? undefined : options.number('height', 0.02, [0, 1000])
  const reach = reachOf(largest!)
  const files: SetFile[] = largest!.files.map(({ record: { name, transfer, slots } }) => ({
    image: name,
    transfer,
    slots: turned(slots, options),
    ...(depth === undefined && roles.some((role) => role.name === name && role.inMetres) ? { reachMetres: reach } : {}),
  }))
  const isOnPart = options.text('mesh') !== undefined
  if (needsModel(files) && !isOnPart)
    throw new GristError(
      'usage',
      `${basename(resolve(folder))} has normals in the space of a model: name it with --mesh, and its part with --part.`,
    )
  const document = documentOfSet(files, {
    ...{ name: options.text('name') ?? basename(resolve(folder)), metres: [1, height / width] },
    workflow: chosenWorkflow(options, 'from') ?? workflowOf(files),
    of: isOnPart ? 'part-alone' : 'tile',
    ...(depth === undefined ? {} : { heightMetres: depth }),
  })
  if (!options.flag('quiet')) {
    for (const { name, content, by } of roles)
      console.log(`${name}: ${content}${by === 'guess' ? ' (guessed from its texels)' : ''}`)
    if (unknown.length > 0) console.log(`not looked at: ${unknown.join(', ')}`)
    for (const one of smaller)
      console.log(`left out, of another size: ${one.files.map(({ record }) => record.name).join(', ')}`)
  }
  return { document, width, channels: new Set(files.flatMap((file) => [...channelsMadeOf(file, files, { isOnPart })])) }
}

/** How far heights go from the surface at most, read as metres. */
function reachOf({ channels }: CheckSubject): number {
  const field = channels.find(({ channel }) => channel.isHeight)?.field
  return field ? field.planes[0]!.reduce((most, v) => Math.max(most, Math.abs(v - 0.5)), 0) : 0
}

export function chosenWorkflow(options: Options, option: 'from' | 'to'): Workflow | undefined {
  const text = options.text(option)
  if (text === undefined) return undefined
  const found = WORKFLOWS.find((one) => one === text)
  if (!found) throw new GristError('usage', `Expected --${option} as ${WORKFLOWS.join(' or ')} but received "${text}".`)
  return found
}

/** Slots with green of normals as the option says; without it as the texels told. */
function turned(slots: readonly SetSlot[], options: Options): readonly SetSlot[] {
  const y = options.text('normal-y')
  if (y === undefined) return slots
  if (y !== 'up' && y !== 'down') throw new GristError('usage', `Expected --normal-y up or down but received "${y}".`)
  return slots.map((slot) =>
    slot.channel === 'normal' && slot.component === 1 ? { ...slot, inverted: y === 'down' } : slot,
  )
}
