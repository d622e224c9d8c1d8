import { cellDistances } from '#core/kernels/cells'
import { allRows } from '#core/kernels/rows'
const N = 512
const plane = () => new Float32Array(N * N)
const time = (label: string, work: () => void) => { const ts = []; for (let i = 0; i < 7; i++) { const t = performance.now(); work(); ts.push(performance.now() - t) } ts.sort((a, b) => a - b); console.log(label, ((ts[3]! * 1e6) / (N * N)).toFixed(1), 'ns') }
for (const cells of [[8, 8], [24, 24], [96, 96]] as const)
  for (const outs of [['nearest'], ['second'], ['border'], ['nearest', 'value']] as const) {
    const out: any = {}; for (const o of outs) out[o] = plane()
    time(`${cells[0]} ${outs}`, () => cellDistances({ cells, jitter: 1, metric: 'euclid' }, 5, { width: N, height: N }, allRows(N), out, (y) => y * N))
  }
