import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';

/**
 * Props whose type a component declares and which it never takes. Without asking the compiler, which would read every
 * component anew, two thirds of the time of all these rules: types of props stand where the props are taken.
 */
const unusedProps = {
  create: (context) => ({
    VariableDeclarator({ id, init }) {
      if (init?.type !== 'CallExpression' || init.callee.name !== '$props' || !id.typeAnnotation) return;
      const type = id.typeAnnotation.typeAnnotation;
      if (id.type !== 'ObjectPattern' || type.type !== 'TSTypeLiteral')
        return context.report({
          node: id,
          message: 'Take props by name, each with its type in the same place.',
        });
      if (id.properties.some((p) => p.type === 'RestElement')) return;
      const taken = new Set(id.properties.map((p) => p.key.name));
      for (const member of type.members)
        if (!taken.has(member.key?.name))
          context.report({ node: member, message: 'This prop is declared and never taken.' });
    },
  }),
};

// Components, and modules with runes: their markup and runes. All else is oxlint's (`.oxlintrc.json`), and so is what needs
// types to know (`scripts/lint-components.sh`).
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
    plugins: { props: { rules: { unused: unusedProps } } },
    rules: { 'require-await': 'error', 'props/unused': 'error', 'svelte/no-unused-props': 'off' },
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: {
      parserOptions: {
        parser: ts.parser,
        // The cache wants what can be written down: a function, as the compiler is told for packages, cannot.
        svelteConfig: { compilerOptions: { runes: true } },
      },
    },
  },
);
