import { GristError } from '#core/errors'
import type { Options } from './options'
import { readOptions } from './options'
import { watchInterrupts } from './interrupts'

type Run = (options: Options) => number | Promise<number>

/** Commands are loaded when they are called: a slip of the fingers is answered at once. */
const COMMANDS: Record<string, { load(): Promise<Run>; usage: string; does: string }> = {
  nodes: {
    load: async () => (await import('./commands/nodes')).nodes,
    usage: 'nodes [--json]',
    does: 'lists every node type',
  },
  packings: {
    load: async () => (await import('./commands/packings')).packings,
    usage: 'packings [--json]',
    does: 'lists the packings shipped',
  },
  eval: {
    load: async () => (await import('./commands/eval')).evaluate,
    usage:
      'eval DOC --output NODE.PORT|CHANNEL --size N[xM] --out F.(png|exr|tiff|npy) [--mesh M --part P [--tile N] [--high M]]',
    does: 'one result',
  },
  bake: {
    load: async () => (await import('./commands/bake')).bake,
    usage:
      'bake DOC --packing NAME|FILE.json --size N --out DIR [--dither] [--sharpen 0-1|CHANNEL=0-1,…] [--project NAME] [--delivery N] [--assets DIR] [--replace [--anew]] [--mesh M --part P [--tile N] [--high M] [--cage M] [--uv-set N] [--quality draft|good|final] [--samples 1|4|16] [--rays N] [--ray-step 1|2|4|6]]; bake PROJECT.json|PROJECT.zip --packing NAME|FILE.json --size N --out DIR [--vertices CHANNEL] [--dither] [--replace]',
    does: 'a delivery with its record; a material for parts on a part of a mesh; of a project (project.json, or the ZIP of one) all parts and the models that wear them',
  },
  convert: {
    load: async () => (await import('./commands/convert')).convert,
    usage:
      'convert DIR --out DIR [--from metal-rough|spec-gloss] [--to metal-rough|spec-gloss] [--packing NAME|FILE.json] [--format F [--bits N]] [--normal-y up|down] [--height M] [--mesh MODEL [--part NAME]] [--size N] [--name NAME] [--dither] [--replace]',
    does: 'an existing set of maps in another workflow and packing',
  },
  replace: {
    load: async () => (await import('./commands/replace')).replace,
    usage: 'replace DIR --with SET-DIR [--from metal-rough|spec-gloss] [--normal-y up|down]',
    does: 'Makes the files of a folder anew from a set of maps; each keeps its name, size, format, blocks, mips and what its channels hold. As they were they are kept beside.',
  },
  survey: {
    load: async () => (await import('./commands/survey')).survey,
    usage:
      'survey MODEL [--size N] [--uv-set N] [--json], and to bake: --kinds A,B|all --out DIR [--high MODEL] [--cage MODEL] [--image F] [--image-set N] [--nearest] [--part NAME] [--samples 1|4|16] [--rays N] [--reach M] [--radius M] [--distance M] [--padding N] [--unit M] [--vertex KIND --vertex-out F.glb|F.ply|F.obj] [--replace]',
    does: 'how a model lies in its UVs, and its mesh data',
  },
  unwrap: {
    load: async () => (await import('./commands/unwrap')).unwrap,
    usage: 'unwrap MODEL --out F.glb [--size N] [--spacing N] [--part NAME] [--unit M]',
    does: 'new UVs for a model or one of its parts',
  },
  remake: {
    load: async () => (await import('./commands/remake')).remake,
    usage: 'remake record.json [--assets DIR] [--out DIR] [--replace]',
    does: 'makes a delivery again and compares',
  },
  check: {
    load: async () => (await import('./commands/check')).check,
    usage: 'check DIR|DOC [--json] [--size N]',
    does: 'findings; exit 1 on errors',
  },
}

function help(): string {
  const lines = Object.values(COMMANDS).map(({ usage, does }) => `  grist ${usage}\n      ${does}`)
  return `Amber Grist on the command line\n\n${lines.join('\n')}\n\n  everywhere: --threads N, --memory MB, --quiet\n  exit codes: 0 done, 1 findings or failure, 2 usage, 130 interrupted`
}

async function main(args: readonly string[]): Promise<number> {
  const [name, ...rest] = args
  if (name === undefined || name === '--help' || name === 'help') {
    console.log(help())
    return name === undefined ? 2 : 0
  }
  const command = Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : undefined
  if (!command)
    throw new GristError('usage', `There is no command "${name}". There are: ${Object.keys(COMMANDS).join(', ')}.`)
  const options = readOptions(rest)
  if (options.flag('help')) {
    console.log(`grist ${command.usage}`)
    return 0
  }
  return (await command.load())(options)
}

watchInterrupts()
process.stdout.on('error', () => process.exit(0)) // a reader such as "head" has gone

main(process.argv.slice(2)).then(
  (code) => {
    process.exitCode = code
  },
  (error: unknown) => {
    const typed = error instanceof GristError
    console.error(typed ? `grist: ${error.message}` : error)
    process.exitCode = !typed ? 1 : error.code === 'usage' ? 2 : error.code === 'cancelled' ? 130 : 1
  },
)
