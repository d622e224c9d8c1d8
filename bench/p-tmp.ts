import { readFileSync } from 'node:fs'
import { parseDocument } from '#core/document/document'
import { channelOutput } from '#core/document/address'
import { localExecutor } from '#core/engine/local-executor'
import { createField } from '#core/field/field'
import { registry } from '#core/nodes/registry.generated'
import { materialHere } from '#core/testing/material-here'
import { openThreads } from '#runtime/node/threads'
const [name='quay-setts', w='512', mode='types'] = process.argv.slice(2)
const document = parseDocument(JSON.parse(readFileSync(`demo/${name}.json`,'utf8')))
const outputs = ['colour','height','roughness','normal','occlusion','metallic'].map((c)=>channelOutput(c as never))
const images = { load: async (n: string) => { const { readImage } = await import('#runtime/node/read-image'); return (readImage as any)(`demo/${n}`) } }
const now = () => performance.now()
if (mode === 'types') {
  const local = localExecutor(registry)
  const times = new Map<string, number>(); const counts = new Map<string, number>()
  const executor = { ...local, run: async (pass: any, signals: any) => {
    const { width, height } = pass.setting
    const fields = pass.fields.map((f: any) => ('local' in f ? createField(f.type, width, height) : f))
    for (const unit of pass.units) for (const step of unit.steps ?? []) {
      const t = now(); await local.run({ ...pass, fields, units: [{ ...unit, steps: [step], tileRows: unit.to - unit.from }] }, signals)
      times.set(step.type, (times.get(step.type) ?? 0) + now() - t); counts.set(step.type, (counts.get(step.type) ?? 0) + 1)
    } } , prepare: async (task: any, c: any) => { const t = now(); const r = await local.prepare(task, c); times.set(task.type+'.prepare', (times.get(task.type+'.prepare') ?? 0) + now() - t); return r } }
  for (let i = 0; i < 2; i++) { times.clear(); counts.clear(); const t = now(); await materialHere(document, { executor: executor as any, images }).evaluate({ outputs, width: +w }); console.log('all', Math.round(now() - t)) }
  console.log([...times].sort((a, b) => b[1] - a[1]).slice(0, 24).map(([k, v]) => `${k}×${counts.get(k)} ${v.toFixed(0)}`).join('  '))
} else {
  const units: any[] = []
  for (const threads of [2]) {
    const base: any = threads ? openThreads(threads) : localExecutor(registry)
    const executor = { threads: base.threads, allocate: base.allocate, free: base.free, prepare: (a: any, b: any) => base.prepare(a, b), run: (p: any, s: any) => { units.push(p); return base.run(p, s) } }
    const ts: number[] = []
    for (let i = 0; i < 4; i++) { const t = now(); const { report } = await materialHere(document, { executor: executor as any, images }).evaluate({ outputs, width: +w }); ts.push(Math.round(now() - t)); if (i === 3) console.log(threads, ts, 'peak MB', (report.peakBytes / 1e6).toFixed(0), 'forecast', (report.forecastBytes/1e6).toFixed(0)) }
    await base.close?.()
  }
  const p = units.at(-1); console.log('units', p.units.length, 'steps', p.units.flatMap((u: any) => u.steps ?? []).length, 'sizes', p.units.map((u: any) => u.steps?.length).join(' '), 'locals', p.fields.filter((f: any) => 'local' in f).length)
}
