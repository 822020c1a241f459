// The rooms of the house and the doors between them: see docs/how-it-works.md.
const only = (from, allowed) => ({
  name: `${from}-keeps-to-its-doors`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: { path: '^(core|contracts|server|web|standins|demo|bench|e2e)/', pathNot: `^(${[from, ...allowed].join('|')})/` },
});

const DOORS = ['api', 'intake', 'public'];
const inServer = (room, closed) => ({
  name: `server-${room}-opens-no-door-upwards`,
  severity: 'error',
  from: { path: `^server/src/${room}/` },
  to: { path: `^server/src/(${closed.join('|')})/` },
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
    // Type-only imports count: a circle of types is one of thoughts.
    { name: 'no-circles', severity: 'error', from: { pathNot: '^web/' }, to: { circular: true } },
    {
      name: 'no-circles-in-web',
      severity: 'error',
      from: { path: '^web/' },
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    // Inside the server: doors and engine -> sequences -> people -> db; no arrow back.
    inServer('db', ['people', 'sequences', 'engine', ...DOORS]),
    inServer('people', ['sequences', 'engine', ...DOORS]),
    inServer('sequences', ['engine', ...DOORS]),
    inServer('engine', DOORS),
    // SQL lies in db/ or beside a gateway: a door that cannot reach it cannot hold any.
    {
      name: 'no-sql-in-a-door',
      severity: 'error',
      from: { path: `^server/src/(${DOORS.join('|')})/` },
      to: { path: 'node_modules/drizzle-orm' },
    },
    // A connection without listeners ends the process when it is lost.
    {
      name: 'connections-by-the-pool',
      severity: 'error',
      from: { path: '^server/src/', pathNot: '^server/src/db/pool\\.ts$' },
      to: { path: 'node_modules/pg/', dependencyTypesNot: ['type-only'] },
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
