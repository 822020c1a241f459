import reactHooks from 'eslint-plugin-react-hooks';
import * as regexp from 'eslint-plugin-regexp';
import tseslint from 'typescript-eslint';

// What oxlint (.oxlintrc.json) does not know: the rules of hooks, patterns that take longer than their text, and our own. Nothing in here asks for types, so it is quick.
export default [
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
  // Disabling a rule of the other linter is none of its business.
  { linterOptions: { reportUnusedDisableDirectives: 'off' } },
  { files: ['**/*.ts', '**/*.tsx'], languageOptions: { parser: tseslint.parser } },
  {
    // What strangers send is read in time proportional to its length: so is everything else.
    files: ['*/src/**/*.ts', '*/src/**/*.tsx'],
    plugins: { regexp },
    rules: { 'regexp/no-super-linear-backtracking': 'error', 'regexp/no-super-linear-move': 'error' },
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
];
