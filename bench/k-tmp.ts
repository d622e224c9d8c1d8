import { scatterSpots } from '#core/kernels/spots'
import { createField } from '#core/field/field'
import { allRows } from '#core/kernels/rows'
import { localExecutor } from '#core/engine/local-executor'
import { registry } from '#core/nodes/registry.generated'
const N = 512
const { allocate } = localExecutor(registry)
const time = (label: string, work: () => void) => { const ts = []; for (let i = 0; i < 9; i++) { const t = performance.now(); work(); ts.push(performance.now() - t) } console.log(label, ts.map((t) => ((t * 1e6) / (N * N)).toFixed(0)).join(' '), 'ns') }
const out = { grey: createField('grey', N, N, undefined, allocate) }
for (const cells of [30, 120])
  time(`${cells}`, () => scatterSpots({ cells: [cells, cells], density: 0.55, size: [0.3, 1.1], softness: 0.9, overlap: 'maximum', vary: 0.7 }, 5, 1, N, out, allRows(N)))
