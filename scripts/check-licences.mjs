// Every package of the lock file must carry a licence that lets the product be given away under MIT.
import { readFileSync } from 'node:fs'

const ALLOWED = [
  'MIT',
  'Public Domain',
  'ISC',
  'Apache-2.0',
  'BSD-2-Clause',
  'BSD-3-Clause',
  '0BSD',
  'CC0-1.0',
  'Unlicense',
  'BlueOak-1.0.0',
  'Python-2.0',
  'OFL-1.1',
  'MIT-0',
  'Zlib',
  'CC-BY-4.0',
]
/** Linked as separate libraries or used at build time only, and allowed as such. */
const LINKED = [/^@img\/sharp/, /^lightningcss/, /^(@axe-core\/playwright|axe-core)$/]

const lock = JSON.parse(readFileSync('package-lock.json', 'utf8'))
const allowed = (licence) =>
  licence
    .replace(/[()]/g, '')
    .split(/ OR /)
    .some((choice) => choice.split(/ AND /).every((part) => ALLOWED.includes(part.trim())))
const wrong = Object.entries(lock.packages)
  .filter(([path]) => path.startsWith('node_modules/'))
  .map(([path, { license }]) => ({
    name: path.replace(/^.*node_modules\//, ''),
    licence: license ?? readLicence(path),
  }))
  .filter(({ name, licence }) => !allowed(licence) && !LINKED.some((pattern) => pattern.test(name)))

/** Old packages say it in their package.json only. */
function readLicence(path) {
  try {
    const { license, licenses } = JSON.parse(readFileSync(`${path}/package.json`, 'utf8'))
    return license?.type ?? license ?? licenses?.map(({ type }) => type).join(' OR ') ?? 'none'
  } catch {
    return 'unknown'
  }
}

for (const { name, licence } of wrong)
  console.error(`${name}: ${licence} is not on the list of licences (scripts/check-licences.mjs).`)
process.exit(wrong.length ? 1 : 0)
