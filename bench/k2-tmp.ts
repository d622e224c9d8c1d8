import { readFileSync } from 'node:fs'
import { layUnits, indexUnits } from '#core/kernels/bonds/laid-units'
import { packUnits } from '#core/kernels/bonds/bond-fields'
import { registry } from '#core/nodes/registry.generated'
import { checkParameters } from '#core/graph/graph'
const doc = JSON.parse(readFileSync('demo/quay-setts.json', 'utf8'))
const node: any = Object.values(doc.nodes).find((n: any) => n.type === 'bond')
const params: any = checkParameters(registry.get('bond')!, node.params)
const time = (label: string, work: () => any) => { const ts = []; let r; for (let i = 0; i < 30; i++) { const t = performance.now(); r = work(); ts.push(performance.now() - t) } console.log(label, ts.sort((a,b)=>a-b)[15]!.toFixed(1)); return r }
const units = time('lay', () => layUnits({ ...params, height: 1 }, 7))
const b: any = time('index', () => indexUnits(units, 1))
console.log(units.length, b.across, b.down, b.lists.flat().length)
time('pack', () => packUnits(units, 1))
