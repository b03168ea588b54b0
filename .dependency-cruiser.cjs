/** Dependencies point one way; a folder's public face is its index.ts. */
module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
    { name: 'core-stands-alone', severity: 'error', from: { path: '^packages/core/src' }, to: { path: '^(apps|scripts|e2e|benchmarks)/' } },
    { name: 'core-without-node', severity: 'error', from: { path: '^packages/core/src' }, to: { dependencyTypes: ['core'] } },
    { name: 'web-not-to-server', severity: 'error', from: { path: '^apps/web' }, to: { path: '^apps/server' } },
    { name: 'server-not-to-web', severity: 'error', from: { path: '^apps/server' }, to: { path: '^apps/web' } },
    {
      name: 'core-through-the-index',
      severity: 'error',
      from: { path: '^packages/core/src/([^/]+)/' },
      to: { path: '^packages/core/src/([^/]+)/(?!index\\.ts$)', pathNot: '^packages/core/src/$1/' },
    },
    {
      name: 'engine-through-the-index',
      severity: 'error',
      from: { path: '^apps/server/src', pathNot: '^apps/server/src/engine' },
      to: { path: '^apps/server/src/engine/(?!index\\.ts$)' },
    },
    {
      name: 'connectors-through-their-face',
      severity: 'error',
      from: { path: '^apps/server/src', pathNot: '^apps/server/src/sources/connectors' },
      to: { path: '^apps/server/src/sources/connectors/(?!(connector|registry)\\.ts$)' },
    },
    { name: 'sql-text-only-in-dialects', severity: 'error', from: { path: '^apps/web' }, to: { path: '^pg$' } },
    {
      name: 'not-to-dev-packages',
      severity: 'error',
      from: { path: '^(apps|packages)/[^/]+/src' },
      to: { dependencyTypes: ['npm-dev'], dependencyTypesNot: ['type-only'] },
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|data|data-test)/' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['types', 'import', 'default'] },
  },
};
