import { closeSync, fsyncSync, openSync, readFileSync, readSync, statSync, writeSync } from 'node:fs'
import type { Hash } from 'node:crypto'
import { createHash } from 'node:crypto'
import { dirname, isAbsolute, resolve } from 'node:path'
import { GristError } from '#core/errors'
import type { OpenFile } from '#core/texture/delivery'

/** Opens a file for a writer; a full disk and the like become typed errors. */
export function createFile(path: string): OpenFile {
  const file = guarded(path, () => openSync(path, 'w+'))
  let size = 0
  // Kept while bytes go out, unless some are changed afterwards.
  const running = createHash('sha256')
  let isRunning = true
  const write = (bytes: Uint8Array, at: number): void =>
    guarded(path, () => {
      for (let done = 0; done < bytes.length;) done += writeSync(file, bytes, done, bytes.length - done, at + done)
    })
  return {
    output: {
      append: (bytes) => {
        write(bytes, size)
        running.update(bytes)
        size += bytes.length
      },
      patch: (at, bytes) => {
        write(bytes, at)
        isRunning = false
      },
    },
    close: async () => {
      const sha256 = guarded(path, () => {
        const digest = (isRunning ? running : hashOf(file, size)).digest('hex')
        fsyncSync(file)
        closeSync(file)
        return digest
      })
      return { bytes: size, sha256 }
    },
  }
}

/** A hash over the bytes of an open file. */
function hashOf(file: number, size: number): Hash {
  const hash = createHash('sha256')
  const buffer = Buffer.alloc(1 << 20)
  for (let at = 0; at < size;) {
    const read = readSync(file, buffer, 0, buffer.length, at)
    if (read === 0) break
    hash.update(buffer.subarray(0, read))
    at += read
  }
  return hash
}

/** Where an image named in a document lies. Throws asset-missing for paths that leave the document's folder. */
export function assetPath(folder: string, name: string): string {
  const path = resolve(folder, name)
  if (isAbsolute(name) || !path.startsWith(resolve(folder) + '/'))
    throw new GristError(
      'asset-missing',
      `Expected a path inside the document's folder but received ${JSON.stringify(name)}.`,
    )
  return path
}

/** JSON from a file of at most `mostBytes`. Throws file-invalid with the parser's words. */
export function readJson(path: string, mostBytes = 256 << 20): unknown {
  const { size } = guarded(path, () => statSync(path))
  if (size > mostBytes)
    throw new GristError('file-invalid', `Expected at most ${mostBytes} bytes but the file has ${size}.`, {
      file: path,
    })
  const text = guarded(path, () => readFileSync(path, 'utf8'))
  try {
    return JSON.parse(text)
  } catch (error) {
    throw new GristError('file-invalid', `Expected JSON: ${(error as Error).message}`, { file: path })
  }
}

export const folderOf = (path: string): string => dirname(resolve(path))

const REASONS: Record<string, string> = {
  ENOENT: 'There is no such file or folder.',
  EACCES: 'Access is not allowed.',
  EISDIR: 'Expected a file but this is a folder.',
  ENOTDIR: 'Expected a folder but this is a file.',
  ENOSPC: 'The disk is full. Free some space and start again; nothing was left half-written.',
  EROFS: 'The disk is read-only.',
  ENAMETOOLONG: 'The name is longer than the file system takes.',
  EXDEV: 'It lies on another disk than its neighbours; name a folder inside it.',
  EBUSY: 'The system is using this folder; name one inside it.',
}

/** Does work on files; what the file system says becomes a typed error that names the path. */
export function guarded<T>(path: string, work: () => T): T {
  try {
    return work()
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? ''
    throw new GristError('file-invalid', REASONS[code] ?? `The file system says: ${(error as Error).message}`, {
      file: path,
    })
  }
}
