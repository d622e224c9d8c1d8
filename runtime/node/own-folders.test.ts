import { spawn } from 'node:child_process'
import { existsSync, mkdirSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import { livesOn, ownFolder, processMark, removeDeadFolders } from './own-folders'

test('folders of processes that died are removed at once; ours, other people’s and those of later processes are not', async () => {
  const mine = await ownFolder()
  const [, pid, began] = /run-(\d+)-(\d+)-/.exec(basename(mine))!
  // The same number, begun at another time: that process is gone, and its number was given to us.
  const earlier = join(tmpdir(), `grist-run-${pid}-${Number(began) - 1}-x`)
  const child = spawn('true')
  await new Promise((resolve) => child.once('exit', resolve))
  const dead = join(tmpdir(), `grist-run-${child.pid}-12345-x`)
  const foreign = join(tmpdir(), `grist-running-${process.pid}`)
  for (const path of [earlier, dead, foreign]) mkdirSync(path, { recursive: true })
  try {
    await removeDeadFolders()
    expect([mine, earlier, dead, foreign].map((path) => existsSync(path))).toEqual([true, false, false, true])
  } finally {
    for (const path of [mine, earlier, dead, foreign]) await rm(path, { recursive: true, force: true })
  }
})

test('a mark tells whether its process lives', () => {
  expect(livesOn(processMark())).toBe(true)
  for (const mark of ['', 'x', '1', `${process.pid}-1`, '999999999-5'])
    expect([mark, livesOn(mark)]).toEqual([mark, false])
})
