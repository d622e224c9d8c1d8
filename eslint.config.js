import js from '@eslint/js'
import hooks from 'eslint-plugin-react-hooks'
import ts from 'typescript-eslint'

export default ts.config(
  {
    ignores: [
      'build/',
      '.react-router/',
      'node_modules/',
      'test-results/',
      'playwright-report/',
      '.data/',
      'core/kernels/assembly/',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  { languageOptions: { globals: { console: 'readonly', process: 'readonly' } } },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      // These differ between engines in the last place; core/kernels/elementary.ts has ours.
      'no-restricted-properties': [
        'error',
        ...[
          'sin',
          'cos',
          'tan',
          'asin',
          'acos',
          'atan',
          'atan2',
          'exp',
          'log',
          'log10',
          'pow',
          'cbrt',
          'hypot',
          'random',
        ].map((property) => ({
          object: 'Math',
          property,
          message: 'Not the same in every engine; see core/kernels/elementary.ts.',
        })),
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'Buffer'],
    },
  },
  { files: ['**/*.tsx'], plugins: { 'react-hooks': hooks }, rules: hooks.configs.recommended.rules },
  { files: ['**/*.cjs'], languageOptions: { globals: { module: 'writable' } } },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
    },
  },
)
