const compiled = (parser, transform) => [
  '@swc/jest',
  {
    swcrc: false,
    jsc: { parser: { syntax: 'typescript', ...parser }, transform, target: 'es2022', keepClassNames: true },
    module: { type: 'commonjs' },
  },
];

const common = {
  testEnvironment: 'node',
  transform: {
    '^.+\\.ts$': compiled({ decorators: true }, { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false }),
    '^.+\\.tsx$': compiled({ tsx: true }, { react: { runtime: 'automatic' } }),
  },
  setupFiles: ['<rootDir>/../../packages/core/test/support/seed.ts'],
  moduleNameMapper: { '^@cendra/core$': '<rootDir>/../../packages/core/src/index.ts' },
};

export default {
  // Tests wait for PostgreSQL and the combine engine more than they compute.
  maxWorkers: 2,
  projects: [
    { ...common, displayName: 'web', rootDir: 'apps/web', testMatch: ['<rootDir>/test/**/*.test.ts'] },
    { ...common, displayName: 'core', rootDir: 'packages/core', testMatch: ['<rootDir>/test/**/*.test.ts'] },
    {
      ...common,
      displayName: 'server',
      rootDir: 'apps/server',
      testMatch: ['<rootDir>/test/**/*.test.ts'],
      setupFilesAfterEnv: ['<rootDir>/test/support/patience.ts'],
    },
  ],
};
