const common = {
  testEnvironment: 'node',
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      {
        swcrc: false,
        jsc: {
          parser: { syntax: 'typescript', decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false },
          target: 'es2022',
          keepClassNames: true,
        },
        module: { type: 'commonjs' },
      },
    ],
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
