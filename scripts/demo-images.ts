/** Makes the demo's images into demo/images. `--check` only compares their texels and fails on a difference. */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { startPng } from '#core/texture/formats/png'
import { memoryWriter } from '#core/texture/bytes/byte-writer'
import boardFigures from '#demo/make/board-figures'
import depthFigures from '#demo/make/depth-figures'
import numberPlate from '#demo/make/number-plate'
import sedgeBlades from '#demo/make/sedge-blades'
import { shellGritScans } from '#demo/make/shell-grit'

const folder = join(import.meta.dirname, '../demo/images')
const check = process.argv.includes('--check')
let stale = 0
mkdirSync(folder, { recursive: true })
for (const { file, width, height, channels, make } of [
  boardFigures,
  depthFigures,
  numberPlate,
  sedgeBlades,
  ...shellGritScans,
]) {
  const writer = memoryWriter()
  const png = startPng({ width, height, channels, bits: 8, srgb: true }, writer)
  const values = await make()
  for (let y = 0; y < height; y++) png.rows(values.subarray(y * width * channels, (y + 1) * width * channels))
  png.end()
  const path = join(folder, file)
  const bytes = writer.bytes()
  if (existsSync(path) && readFileSync(path).equals(bytes)) continue
  if (check) {
    stale++
    console.error(`demo/images/${file} is not what demo/make makes. Run "npm run demo:images".`)
  } else writeFileSync(path, bytes)
}
process.exit(stale ? 1 : 0)
