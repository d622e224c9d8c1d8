import { readFileSync } from 'node:fs'
import { layUnits } from '#core/kernels/bonds/laid-units'
import { bondFields, packUnits } from '#core/kernels/bonds/bond-fields'
import { registry } from '#core/nodes/registry.generated'
import { checkParameters } from '#core/graph/graph'
import { createField } from '#core/field/field'
import { allRows } from '#core/kernels/rows'
import { localExecutor } from '#core/engine/local-executor'
const N = 512
const { allocate } = localExecutor(registry)
const doc = JSON.parse(readFileSync('demo/quay-setts.json', 'utf8'))
const node: any = Object.values(doc.nodes).find((n: any) => n.type === 'bond')
const params: any = checkParameters(registry.get('bond')!, node.params)
const time = (label: string, work: () => any) => { const ts = []; let r; for (let i = 0; i < 15; i++) { const t = performance.now(); r = work(); ts.push(performance.now() - t) } console.log(label, ts.sort((a,b)=>a-b)[7]!.toFixed(1), 'ms', (ts[7]!*1e6/N/N).toFixed(0), 'ns'); return r }
const units = layUnits({ ...params, height: 1 }, 7)
const packed = time('pack', () => packUnits(units, 1))
console.log(packed.across, packed.copies.length / 2 / (packed.starts.length - 1))
const out: any = {}; for (const o of ['mask', 'distance', 'level', 'value']) out[o] = createField('grey', N, N, undefined, allocate)
time('bond', () => bondFields({ units, packed }, { ...params, width: N, height: 1 }, out, allRows(N)))
