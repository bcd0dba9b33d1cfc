import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';

// Components, and modules with runes: their markup and runes. All else is oxlint's (`.oxlintrc.json`), and so is what needs
// types to know but for the names of props (`scripts/lint-components.sh`).
export default ts.config(
  js.configs.recommended,
  ts.configs.recommended,
  svelte.configs.recommended,
  prettier,
  svelte.configs.prettier,
  {
    languageOptions: { globals: globals.browser },
    rules: {
      'no-undef': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-unused-expressions': 'off',
      '@typescript-eslint/no-non-null-assertion': 'off',
      'svelte/no-navigation-without-resolve': 'off',
      // Runes hold what changes. Without stores, the rule that asks each expression whether it is one has no work.
      'no-restricted-imports': ['error', 'svelte/store'],
      'svelte/require-store-reactive-access': 'off',
    },
  },
  {
    files: ['**/*.svelte'],
    rules: { 'require-await': 'error' },
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: {
      parserOptions: {
        parser: ts.parser,
        // The cache wants what can be written down: a function, as the compiler is told for packages, cannot.
        svelteConfig: { compilerOptions: { runes: true } },
        // Types, to know of props that nobody uses (svelte/no-unused-props).
        projectService: true,
        tsconfigRootDir: import.meta.dirname,
        extraFileExtensions: ['.svelte'],
      },
    },
  },
);
