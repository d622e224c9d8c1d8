/**
 * Bundles the command line and the entries of its threads into build/node, so that they start without a compiler and read
 * few files. Packages with native parts, with threads of their own, or that are no ES modules and need Node's, stay outside.
 */
import { rmSync, writeFileSync } from 'node:fs'
import { build } from 'esbuild'

const OUT = 'build/node'
rmSync(OUT, { recursive: true, force: true })
await build({
  entryPoints: [
    'cli/grist.ts',
    ...['rows', 'image', 'jpeg', 'model', 'mesh-data', 'check'].map((name) => `runtime/node/${name}-worker.ts`),
  ],
  entryNames: '[name]',
  chunkNames: 'part-[hash]',
  outdir: OUT,
  outExtension: { '.js': '.mjs' },
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  external: [
    'sharp',
    'piscina',
    'three',
    '@jsquash/jpeg',
    'yauzl',
    'yazl',
    'draco3dgltf',
    'watlas',
    '@bokuweb/zstd-wasm',
  ],
  logLevel: 'warning',
  plugins: [
    {
      name: 'own imports',
      setup: ({ onResolve, resolve }) =>
        void onResolve({ filter: /^#/ }, ({ path }) =>
          resolve(path.replace(/^#(\w+)\/(.*)$/, './$1/$2.ts'), {
            resolveDir: process.cwd(),
            kind: 'import-statement',
          }),
        ),
    },
  ],
})
writeFileSync(`${OUT}/.built`, '')
