import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import type { Evidence } from '#core/texture/find-role'
import { evidenceOf, findRoles, meansOf } from '#core/texture/find-role'
import type { FileToReplace, Replacement } from '#core/texture/replacing'
import { replacing } from '#core/texture/replacing'
import { formOrProblem } from '#runtime/node/file-form'
import { guarded } from '#runtime/node/files'
import { readImage } from '#runtime/node/read-image'
import type { Options } from '../options'
import type { SetMaterial } from '../set-material'
import { setMaterial } from '../set-material'
import { FolderAssets, deliverMaterial } from '../workplace'

/**
 * Makes the files of a folder anew from a set of maps: each keeps its name, size, format, blocks, mips and what its channels hold. What was
 * there is kept in a folder beside them.
 */
export async function replace(options: Options): Promise<number> {
  const folder = options.words[0]
  if (!folder) throw new GristError('usage', 'Which folder of files is to be replaced?')
  const source = options.need('with')
  const set = await setMaterial(source, options)
  const { files, unread } = await filesIn(folder)
  const { replacements, left } = replacing(files, set.channels, 'As they were')
  if (replacements.length === 0)
    throw new GristError('file-invalid', `None of its files holds anything that ${source} has.`, { file: folder })
  const staging = mkdtempSync(join(folder, '.replacing-'))
  try {
    const made: { readonly from: string; readonly name: string }[] = []
    for (const [i, replacement] of replacements.entries())
      made.push(...(await makeFiles(replacement, set, source, join(staging, String(i)), options)))
    const backup = freeBackup(folder)
    mkdirSync(backup)
    for (const { from, name } of made) {
      copyFileSync(join(folder, name), join(backup, name))
      renameSync(from, join(folder, name))
    }
    if (!options.flag('quiet')) {
      for (const { name, why } of [...unread, ...left]) console.log(`left as it is: ${name}, ${why}`)
      console.log(`${made.length} files of ${folder} made anew; as they were they are in ${backup}`)
    }
    return 0
  } finally {
    rmSync(staging, { recursive: true, force: true })
  }
}

/** Images of a folder, with what each is taken for; and what is none, with the reason. */
async function filesIn(folder: string): Promise<{ files: FileToReplace[]; unread: { name: string; why: string }[] }> {
  const names = guarded(folder, () =>
    readdirSync(folder)
      .sort()
      .filter((name) => statSync(join(folder, name)).isFile()),
  )
  const unread: { name: string; why: string }[] = []
  const found: { name: string; image: RasterImage; evidence: Evidence }[] = []
  for (const name of names) {
    try {
      const image = await readImage(join(folder, name))
      found.push({ name, image, evidence: evidenceOf([image]) })
    } catch (error) {
      if (!(error instanceof GristError)) throw error
      unread.push({ name, why: error.detail })
    }
  }
  const roles = findRoles(found.map(({ image, ...one }) => ({ ...one, texels: image.width * image.height })))
  const files = found.map(({ name, image, evidence }, i): FileToReplace => {
    const { slots = [], transfer = 'raw' } = roles[i] ?? {}
    const { width, height, channels } = image
    const form = formOrProblem(readFileSync(join(folder, name)), image)
    return { name, width, height, channels, form, transfer, slots, means: meansOf(evidence) }
  })
  return { files, unread }
}

/** Makes files of one size. Gives where each lies now. */
async function makeFiles(
  { width, height, packing }: Replacement,
  { document }: SetMaterial,
  source: string,
  out: string,
  options: Options,
): Promise<{ from: string; name: string }[]> {
  const fitting = { ...document, domain: { kind: 'tile' as const, metres: [1, height / width] as [number, number] } }
  const { names } = await deliverMaterial(
    options,
    {
      ...{ document: fitting, packing, width, dither: false, what: 'replace', images: false },
      assets: new FolderAssets(source),
    },
    out,
  )
  return names
    .filter((name) => packing.files.some((file) => file.name === name))
    .map((name) => ({ from: join(out, name), name }))
}

function freeBackup(folder: string): string {
  for (let n = 1; ; n++) {
    const place = join(folder, `before-${n}`)
    if (!existsSync(place)) return place
  }
}
