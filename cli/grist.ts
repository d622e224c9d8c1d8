import { GristError } from '#core/errors'
import { bake } from './commands/bake'
import { check } from './commands/check'
import { evaluate } from './commands/eval'
import { nodes } from './commands/nodes'
import { packings } from './commands/packings'
import { remake } from './commands/remake'
import type { Options } from './options'
import { readOptions } from './options'
import { watchInterrupts } from './workplace'

const COMMANDS: Record<string, { run(options: Options): number | Promise<number>; usage: string; does: string }> = {
  nodes: { run: nodes, usage: 'nodes [--json]', does: 'lists every node type' },
  packings: { run: packings, usage: 'packings [--json]', does: 'lists the packings shipped' },
  eval: {
    run: evaluate,
    usage: 'eval DOC --output NODE.PORT|CHANNEL --size N[xM] --out F.(png|exr|tiff|npy)',
    does: 'one result',
  },
  bake: {
    run: bake,
    usage:
      'bake DOC --packing NAME|FILE.json --size N --out DIR [--dither] [--sharpen 0-1] [--project NAME] [--delivery N] [--assets DIR]',
    does: 'a delivery with its record',
  },
  remake: {
    run: remake,
    usage: 'remake record.json [--assets DIR] [--out DIR]',
    does: 'makes a delivery again and compares',
  },
  check: { run: check, usage: 'check DIR|DOC [--json] [--size N]', does: 'findings; exit 1 on errors' },
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
  return command.run(options)
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
