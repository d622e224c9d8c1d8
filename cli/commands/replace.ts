import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { workflowOf } from '#core/document/document-of-set'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import { evidenceOf, findRoles } from '#core/texture/find-role'
import type { FilePlan, Packing, SlotPlan } from '#core/texture/packing'
import { parsePacking } from '#core/texture/packing'
import type { FileForm } from '#runtime/node/file-form'
import { formOfFile } from '#runtime/node/file-form'
import { guarded } from '#runtime/node/files'
import { readImage } from '#runtime/node/read-image'
import { isInterrupted } from '../interrupts'
import type { Options } from '../options'
import type { SetMaterial } from '../set-material'
import { setMaterial } from '../set-material'
import { APPLICATION, FolderAssets, budgetOf, deliverToFolder, progressBar, withMaterial } from '../workplace'

/** A file that is to be replaced: what it is like, and what its channels hold. */
interface Replaced {
  readonly name: string
  readonly width: number
  readonly height: number
  readonly plan: FilePlan
}

/**
 * Makes the files of a folder anew from a set of maps: each keeps its name, size, format, blocks, mips and what its channels hold. What was
 * there is kept in a folder beside them.
 */
export async function replace(options: Options): Promise<number> {
  const folder = options.words[0]
  if (!folder) throw new GristError('usage', 'Which folder of files is to be replaced?')
  const source = options.need('with')
  const set = await setMaterial(source, options)
  const { files, left } = await replacedIn(folder, set)
  if (files.length === 0)
    throw new GristError('file-invalid', `None of its files holds anything that ${source} has.`, { file: folder })
  const staging = mkdtempSync(join(folder, '.replacing-'))
  try {
    // Files of one size are made together.
    const sizes = new Map<string, Replaced[]>()
    for (const file of files) {
      const key = `${file.width} × ${file.height}`
      sizes.set(key, [...(sizes.get(key) ?? []), file])
    }
    const made: { readonly from: string; readonly name: string }[] = []
    for (const [i, group] of [...sizes.values()].entries())
      made.push(...(await makeFiles(group, set, source, join(staging, String(i)), options)))
    const backup = freeBackup(folder)
    mkdirSync(backup)
    for (const { from, name } of made) {
      copyFileSync(join(folder, name), join(backup, name))
      renameSync(from, join(folder, name))
    }
    if (!options.flag('quiet')) {
      for (const { name, why } of left) console.log(`left as it is: ${name}, ${why}`)
      console.log(`${made.length} files of ${folder} made anew; as they were they are in ${backup}`)
    }
    return 0
  } finally {
    rmSync(staging, { recursive: true, force: true })
  }
}

/** Files of a folder that a set can make anew, and why the others are left. */
async function replacedIn(
  folder: string,
  { channels }: SetMaterial,
): Promise<{ files: Replaced[]; left: { name: string; why: string }[] }> {
  const names = guarded(folder, () =>
    readdirSync(folder)
      .sort()
      .filter((name) => statSync(join(folder, name)).isFile()),
  )
  const left: { name: string; why: string }[] = []
  const found: { name: string; image: RasterImage; form: FileForm }[] = []
  for (const name of names) {
    try {
      const image = await readImage(join(folder, name))
      found.push({ name, image, form: formOfFile(join(folder, name), image) })
    } catch (error) {
      if (!(error instanceof GristError)) throw error
      left.push({ name, why: error.detail })
    }
  }
  const evidence = found.map(({ image }) => evidenceOf([image]))
  const roles = findRoles(
    found.map(({ name, image }, i) => ({ name, evidence: evidence[i]!, texels: image.width * image.height })),
  )
  // A folder that has specular colours tells its surface by them and by what is diffuse.
  const isSpecular = workflowOf(roles.flatMap((role) => role ?? [])) === 'spec-gloss'
  const files: Replaced[] = []
  for (const [i, { name, image, form }] of found.entries()) {
    const role = roles[i]
    const held = (role?.slots ?? []).map((slot) =>
      isSpecular && slot.channel === 'colour' ? { ...slot, channel: 'diffuse' } : slot,
    )
    const holds = held.flatMap(({ channel }) => channel ?? [])
    const lacking = holds.find((channel) => !channels.has(channel))
    if (holds.length === 0) left.push({ name, why: 'nothing tells what it holds' })
    else if (lacking !== undefined) left.push({ name, why: `it holds ${lacking}, which the set has not` })
    else {
      const means = evidence[i]!.planes.map(({ mean }) => Math.min(1, Math.max(0, mean)))
      const slots = slotsOf(held, image.channels, form, means)
      const plan = { map: `file-${i + 1}`, transfer: role!.transfer, ...form, slots } as FilePlan
      files.push({ name, width: image.width, height: image.height, plan })
    }
  }
  return { files, left }
}

/** Slots of a file as it has channels: those that hold nothing keep what they are on the whole. */
function slotsOf(
  held: readonly { channel: string | null; component: number; inverted: boolean }[],
  channels: number,
  { block }: FileForm,
  means: readonly number[],
): SlotPlan[] {
  // Two-channel normals in blocks are written from three, of which the third goes nowhere.
  const count = block === 'bc5' ? 3 : channels === 2 ? 1 : channels
  return Array.from({ length: count }, (_, i): SlotPlan => {
    const slot = held[i]
    if (slot?.channel != null) return { channel: slot.channel, component: slot.component, invert: slot.inverted }
    // A grey that stands in all three planes.
    const [first] = held
    if (i < 3 && held.length === 1 && first?.channel != null)
      return { channel: first.channel, component: first.component, invert: first.inverted }
    return { constant: means[i] ?? 1 }
  })
}

/** Makes files of one size. Gives where each lies now. */
async function makeFiles(
  group: readonly Replaced[],
  { document }: SetMaterial,
  source: string,
  out: string,
  options: Options,
): Promise<{ from: string; name: string }[]> {
  const packing: Packing = parsePacking({
    ...{ format: 'amber-grist/packing', version: 1, name: 'as-they-were', title: 'As they were', summary: '' },
    ...{ pattern: '{map}', files: group.map(({ plan }) => plan) },
  })
  const { width, height } = group[0]!
  const fitting = { ...document, domain: { kind: 'tile' as const, metres: [1, height / width] as [number, number] } }
  const assets = new FolderAssets(source)
  const hashes = await assets.hashes(fitting)
  await withMaterial(options, fitting, assets, async (material, coders) =>
    deliverToFolder(
      material,
      {
        ...{ packing, width, dither: false, application: APPLICATION, assets: hashes, coders },
        budgetBytes: budgetOf(options),
        isCancelled: isInterrupted,
        onProgress: progressBar(options, 'replace'),
      },
      out,
      { images: [] },
    ),
  )
  return group.map(({ name, plan }) => ({ from: join(out, `${plan.map}.${plan.format}`), name }))
}

function freeBackup(folder: string): string {
  for (let n = 1; ; n++) {
    const place = join(folder, `before-${n}`)
    if (!existsSync(place)) return place
  }
}
