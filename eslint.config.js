import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      '.ascenso/**',
      'server/drizzle/**',
      'test-results/**',
      '**/*.mjs',
      '**/*.cjs',
      'eslint.config.js',
      'mjml-slim/**',
    ],
  },
  ...tseslint.configs.recommendedTypeChecked,
  {
    languageOptions: {
      parserOptions: {
        projectService: true,
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { arguments: false, attributes: true } }],
      // Values of attributes and payloads are unknown by nature, and turned into text on purpose.
      '@typescript-eslint/restrict-template-expressions': 'off',
      '@typescript-eslint/no-base-to-string': 'off',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/require-await': 'off',
      // A new kind of anything is told by every place that goes through the kinds, also those that have a default.
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: false }],
    },
  },
  {
    // Bodies read by supertest and vitest's matchers have no type: what they hold is what is tested.
    files: ['*/test/**/*.ts'],
    rules: { '@typescript-eslint/no-unsafe-member-access': 'off', '@typescript-eslint/no-unsafe-assignment': 'off' },
  },
  {
    files: ['web/**/*.tsx', 'web/**/*.ts'],
    plugins: { 'react-hooks': reactHooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      // One set of controls: those in web/src/ui look and answer the same everywhere.
      'no-restricted-syntax': [
        'error',
        {
          selector: 'JSXOpeningElement[name.name=/^(select|datalist)$/]',
          message: 'Choices are made with Choice, OneOf or NameField of ui/.',
        },
        {
          selector:
            'JSXOpeningElement > JSXAttribute[name.name="type"] Literal[value=/^(date|time|datetime-local|month|week|color|file|number)$/]',
          message: 'Days, hours, colours, numbers and files are taken by the fields of ui/.',
        },
      ],
    },
  },
  { files: ['web/src/ui/file-field.tsx'], rules: { 'no-restricted-syntax': 'off' } },
);
