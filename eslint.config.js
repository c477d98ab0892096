import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Everything that runs is checked, with its types: the apps, the packages, and what builds, measures and demonstrates them. */
export default tseslint.config(
  { ignores: ['**/dist/**', 'node_modules/**', 'packages/kernels/src/assembly/**', '.cache/**', 'test-results/**'] },
  ...tseslint.configs.recommended,
  {
    languageOptions: { parserOptions: { project: ['./tsconfig.lint.json'], tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/no-unnecessary-type-assertion': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': 'error',
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  { files: ['**/*.test.ts', '**/test/**', 'e2e/**'], rules: { '@typescript-eslint/no-explicit-any': 'off' } },
  // Commands of the repository talk to whoever runs them.
  { files: ['**/*.mjs', '**/*.test.ts', '**/test/**', 'e2e/**'], rules: { 'no-console': 'off' } },
  {
    files: ['apps/web/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
);
