import { plainMemory } from '../field/field'
import type { Registry } from '../graph/registry'
import { heapHere } from '../kernels/heap-here'
import { doIslandsHere } from './island-threads'
import type { Executor, Pass, PassSignals } from './pass'
import { checkWanted, runPrepare, tilesOf, withUnit } from './pass'

/** Milliseconds after which other work of this thread gets its turn, such as the message that cancels a pass. */
const TURN = 12

/** Runs every pass on this thread. Cancelling takes effect between rows where the check can see it. */
export function localExecutor(registry: Registry): Executor {
  const own = heapHere()
  return {
    threads: 1,
    allocate: own?.allocate ?? plainMemory,
    free: own?.free ?? (() => {}),
    run: (pass, signals) => runHere(registry, pass, signals),
    prepare: async (task, isCancelled) => runPrepare(registry, task, isCancelled),
    doIslands: doIslandsHere,
    end: () => {},
  }
}

async function runHere(registry: Registry, pass: Pass, { isCancelled, onProgress }: PassSignals): Promise<void> {
  const done = new Int32Array(pass.units.length)
  let began = performance.now()
  for (const [index, unit] of pass.units.entries()) {
    checkWanted(isCancelled)
    withUnit(registry, pass, unit, isCancelled, (doTile) => {
      for (let tile = 0; tile < tilesOf(unit); tile++) {
        doTile(tile)
        done[index]!++
      }
    })
    onProgress?.((at) => done[at]!)
    if (performance.now() - began < TURN) continue
    await new Promise((resolve) => setTimeout(resolve))
    began = performance.now()
  }
}
