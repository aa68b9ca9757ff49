import svelte from 'eslint-plugin-svelte'
import globals from 'globals'
import ts from 'typescript-eslint'
import svelteConfig from './svelte.config.js'

export default ts.config(
  { ignores: ['dist/', 'node_modules/', 'src/lib/api/schema.d.ts'] },
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: globals.browser },
    linterOptions: { reportUnusedDisableDirectives: 'error' },
    rules: {
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-alert': 'error',
      'no-empty': ['error', { allowEmptyCatch: false }],
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      // Links of this app are made of the hash alone; there is no router of SvelteKit.
      'svelte/no-navigation-without-resolve': 'off',
      // A space that is meant: {' '}.
      'svelte/no-useless-mustaches': 'off',
      // Values are replaced whole here, never changed in place.
      'svelte/prefer-svelte-reactivity': 'off',
      // A write that goes round the contract of the server.
      'no-restricted-syntax': [
        'error',
        {
          selector: 'TSAsExpression > TSAsExpression[typeAnnotation.type="TSUnknownKeyword"]',
          message: 'Say what it is instead of “as unknown as”.',
        },
      ],
    },
  },
  // A test stands in for what the browser gives.
  { files: ['**/*.test.ts'], rules: { 'no-restricted-syntax': 'off' } },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } },
  },
)
