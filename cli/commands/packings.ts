import { packings as shipped } from '#core/texture/packings/packings.generated'
import type { Options } from '../options'

/** The packings shipped. */
export function packings(options: Options): number {
  if (options.flag('json')) console.log(JSON.stringify(shipped, null, 2))
  else for (const { name, title, summary } of shipped) console.log(`${name.padEnd(30)} ${title}. ${summary}`)
  return 0
}
