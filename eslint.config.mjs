import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import globals from 'globals';
import ts from 'typescript-eslint';

export default ts.config(
  { ignores: ['**/dist', '**/node_modules', 'data', 'data-test', 'apps/web/src/api/client.gen.ts', 'apps/web/public'] },
  js.configs.recommended,
  ...ts.configs.strict,
  {
    languageOptions: { globals: { ...globals.node, ...globals.browser } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': ['error', { disallowTypeAnnotations: false }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-extraneous-class': 'off',
      '@typescript-eslint/no-dynamic-delete': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      'no-undef': 'off',
      'max-lines': ['error', { max: 400, skipBlankLines: true, skipComments: true }],
      eqeqeq: 'error',
    },
  },
  // Types in decorated signatures must stay values, or Nest cannot inject them.
  { files: ['apps/server/src/**'], rules: { '@typescript-eslint/consistent-type-imports': 'off' } },
  { files: ['apps/web/src/**'], ...hooks.configs.flat.recommended },
  {
    files: ['apps/web/src/**'],
    rules: { 'react-hooks/incompatible-library': 'off', 'react-hooks/set-state-in-effect': 'off', 'react-hooks/refs': 'off' },
  },
);
