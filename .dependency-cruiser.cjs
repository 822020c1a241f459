// The rooms of the house and the doors between them: see docs/how-it-works.md.
const only = (from, allowed) => ({
  name: `${from}-keeps-to-its-doors`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: { path: '^(core|contracts|server|web|standins|demo|bench|e2e)/', pathNot: `^(${[from, ...allowed].join('|')})/` },
});

module.exports = {
  forbidden: [
    only('core', []),
    only('contracts', ['core']),
    { ...only('server', ['core', 'contracts']), from: { path: '^server/src/' } },
    { ...only('web', ['core', 'contracts']), from: { path: '^web/src/' } },
    { ...only('standins', []), from: { path: '^standins/src/' } },
    only('demo', ['core']),
    // The email that holds every kind of block is one for all tests.
    only('e2e', ['core/test', 'core/src']),
    { name: 'core-is-pure', severity: 'error', from: { path: '^core/src/' }, to: { dependencyTypes: ['core'] } },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    {
      name: 'core-by-its-index',
      severity: 'error',
      from: { path: '^(contracts|server|web|demo)/src/' },
      to: { path: '^core/src/', pathNot: '^core/src/(index|[a-z]+/index)\\.ts$' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|node_modules)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.json'],
    },
  },
};
