/** The house's import rules: downward only, no circles. See docs/decisions/0001-the-house.md. */
const below = (name, from, to, comment) => ({
  name,
  severity: 'error',
  comment,
  from: { path: from, pathNot: '\\.test\\.ts$' },
  to: { path: to },
})

module.exports = {
  forbidden: [
    {
      name: 'no-circle',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    below('core-is-pure', '^core/', '^(runtime|app|cli|db|server)', 'The core knows no platform.'),
    {
      name: 'core-packages',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$|/testing/' },
      to: { dependencyTypes: ['core'] },
      comment: 'No Node built-ins in the core.',
    },
    {
      name: 'core-npm',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$|/testing/' },
      to: { path: 'node_modules/(?!(zod|pako|@noble))' },
    },
    below(
      'runtime-below-app',
      '^runtime/',
      '^(app|cli|db|server)',
      'Runtime serves app and cli, not the other way round.',
    ),
    below('cli-beside-app', '^cli/', '^(app|db)', 'The command line needs no server.'),
    below('engine-knows-no-node', '^core/(engine|graph|layers)/', '^core/(nodes|maps)/', 'The registry is handed in.'),
    below(
      'kernels-at-the-bottom',
      '^core/(kernels|field|colour)/',
      '^core/(nodes|maps|engine|graph|layers|formats)/',
      'Kernels stand below graphs.',
    ),
    below(
      'nodes-below-maps',
      '^core/nodes/',
      '^core/(maps|layers|engine|formats)/',
      'A node knows graph, kernels, fields.',
    ),
    below('formats-alone', '^core/formats/', '^core/(nodes|maps|engine|graph|layers|kernels)/', 'Formats know bytes.'),
    {
      name: 'testing-in-tests',
      severity: 'error',
      from: { pathNot: '\\.test\\.ts$|/testing/|^e2e/|^bench/|^scripts/(store-hashes|node-reference)' },
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
