import swc from '@swc/jest'

/** Globals that hot loops look up. */
const GLOBALS = [
  ...[
    'Array',
    'BigInt64Array',
    'DataView',
    'Error',
    'Infinity',
    'Map',
    'Math',
    'NaN',
    'Number',
    'Object',
    'Set',
    'String',
  ],
  ...['Float32Array', 'Float64Array', 'Int8Array', 'Int16Array', 'Int32Array', 'Uint8Array', 'Uint8ClampedArray'],
  ...['Uint16Array', 'Uint32Array', 'WeakMap'],
]

/** The line that binds the globals that a source names. Types are named too; they cost nothing. */
function binding(source) {
  const used = GLOBALS.filter((name) => new RegExp(`\\b${name}\\b`).test(source))
  return used.length === 0 ? '' : `const { ${used.join(', ')} } = globalThis; `
}

/**
 * TypeScript for Jest, by SWC. Jest runs modules in a context of their own, in which each look at a global goes through a slow hook:
 * loops that call Math.floor run a quarter as fast. So every module binds the globals that it names once, on its first line, which
 * keeps line numbers as they are.
 */
export default {
  createTransformer(options) {
    const inner = swc.createTransformer(options)
    const bound = (source) => (source.startsWith('#!') ? source : binding(source) + source)
    return {
      process: (source, ...rest) => inner.process(bound(source), ...rest),
      processAsync: (source, ...rest) => inner.processAsync(bound(source), ...rest),
      getCacheKey: (source, ...rest) => inner.getCacheKey(bound(source), ...rest),
    }
  },
}
