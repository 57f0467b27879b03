import svelte from 'eslint-plugin-svelte';
import ts from 'typescript-eslint';

export default ts.config(
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  { files: ['**/*.svelte', '**/*.svelte.ts'], languageOptions: { parserOptions: { parser: ts.parser } } },
  { rules: { 'svelte/no-navigation-without-resolve': 'off', 'svelte/require-each-key': 'error', '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_', argsIgnorePattern: '^_' }] } },
  { ignores: ['build/', '.svelte-kit/', 'src/lib/api/schema.d.ts'] },
);
