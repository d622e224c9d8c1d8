/**
 * The import rules of the house; docs/ARCHITECTURE.md draws them. Imports point downward only, type imports included, and
 * nothing goes in a circle. Tests may look at everything.
 */
const TESTS = '\\.test\\.ts$|/testing/'

const rule = (name, from, to, comment) => ({
  name,
  severity: 'error',
  comment,
  from: { path: from, pathNot: TESTS },
  to: typeof to === 'string' ? { path: to } : to,
})

/** Layers of the core, bottom first: each may import those before it. Those in one entry don't know each other. */
const CORE = [
  ['core/[^/]+\\.ts$', 'core/(field|colour)/'],
  ['core/kernels/'],
  ['core/document/'],
  ['core/graph/'],
  ['core/nodes/'],
  ['core/engine/'],
  ['core/compose/', 'core/mesh/'],
  ['core/texture/'],
  ['core/checks/', 'core/preview/'],
  ['core/material/'],
  ['core/exchange/'],
]
const upward = CORE.flatMap((layer, i) => {
  const above = CORE.slice(i + 1).flat()
  return above.length === 0
    ? []
    : [rule(`core-${i}-points-down`, `^(${layer.join('|')})`, `^(${above.join('|')})`, 'A layer knows those below it.')]
})

module.exports = {
  forbidden: [
    { name: 'no-circle', severity: 'error', from: {}, to: { circular: true } },
    ...upward,
    rule('core-knows-no-platform', '^core/', '^(runtime|app|cli|db|demo|server)', 'The core knows no platform.'),
    rule('core-without-node', '^core/', { dependencyTypes: ['core'] }, 'No Node built-ins in the core.'),
    rule(
      'core-packages',
      '^core/',
      'node_modules/(?!(zod|pako|immer|uuid|lru-cache|@noble|@gltf-transform|property-graph|earcut|ktx-parse|three|fflate|fast-xml-parser)/)',
      'Few packages, none that needs a platform.',
    ),
    rule(
      'engine-knows-no-node',
      '^core/(graph|engine|compose|texture|material)/',
      '^core/nodes/',
      'The registry is handed in.',
    ),
    rule(
      'nodes-are-leaves',
      '^core/nodes/',
      '^core/(document|engine)/',
      'A node knows its definition, kernels and fields.',
    ),
    rule(
      'formats-know-bytes',
      '^core/texture/formats/',
      '^core/(?!texture/(formats/|bytes/|file-format\\.ts|jpeg-codec\\.ts)|colour/|field/|[^/]+\\.ts$)',
      'Formats know bytes.',
    ),
    rule('checks-and-preview-apart', '^core/checks/', '^core/preview/', 'Neither needs the other.'),
    rule('preview-and-checks-apart', '^core/preview/', '^core/checks/', 'Neither needs the other.'),

    rule('runtime-below-app', '^runtime/', '^(app|cli|db|server)', 'Runtime serves app and cli.'),
    rule('runtimes-apart', '^runtime/browser/', '^runtime/node/', 'A browser has no Node.'),
    rule('runtimes-apart-too', '^runtime/node/', '^runtime/browser/', 'Node has no browser.'),
    rule('cli-without-server', '^cli/', '^(app|db)/', 'The command line needs no server.'),

    rule(
      'contracts-know-the-core',
      '^app/contracts/',
      '^(app/(?!contracts/)|runtime|db|cli)',
      'Shapes that both sides share.',
    ),
    rule('ui-knows-the-core', '^app/ui/', '^(app/(?!ui/)|runtime|db|cli)', 'Primitives get data.'),
    rule(
      'session-below-features',
      '^app/session/',
      '^app/(features|screens|routes|server)/',
      'What every screen needs.',
    ),
    rule(
      'features-below-screens',
      '^app/features/',
      '^app/(screens|routes|server)/',
      'Pages never reach into the server.',
    ),
    {
      ...rule('features-apart', '^app/features/([^/]+)/', '^app/features/'),
      comment: 'A feature meets another through session and ui only.',
      to: { path: '^app/features/', pathNot: '^app/features/$1/' },
    },
    rule('screens-below-routes', '^app/screens/', '^app/(routes|server)/', 'Screens put panes together.'),
    rule('server-apart', '^app/server/', '^app/(features|screens|session|ui|routes)/', 'The server draws nothing.'),

    {
      name: 'testing-in-tests',
      severity: 'error',
      from: { pathNot: `${TESTS}|^e2e/|^bench/|^scripts/(store-hashes|node-reference)` },
      to: { path: '/testing/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^(build|\\.react-router)/' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'node', 'default', 'types'] },
  },
}
