import { execFileSync } from 'node:child_process'

/** Debian's Python, which finds Debian's NumPy and SciPy. */
const PYTHON = '/usr/bin/python3'

/**
 * Runs a piece of Python on a float32 array and gives back the float32 array it leaves in `out`.
 * In the code, `a` is the input with the given shape (float64), `np` NumPy.
 */
export function python(code: string, input: Float32Array, shape: readonly number[]): Float32Array {
  const script = [
    'import sys, numpy as np',
    `a = np.frombuffer(sys.stdin.buffer.read(), "<f4").reshape(${JSON.stringify(shape)}).astype("f8")`,
    code,
    'sys.stdout.buffer.write(np.ascontiguousarray(out, "<f4").tobytes())',
  ].join('\n')
  const bytes = execFileSync(PYTHON, ['-c', script], {
    input: new Uint8Array(input.buffer, input.byteOffset, input.byteLength),
    maxBuffer: 1 << 28,
  })
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength))
}
