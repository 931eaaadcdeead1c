import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import { defineConfig } from 'eslint/config';
import globals from 'globals';
import ts from 'typescript-eslint';
import { mayImport } from './scripts/rooms.mjs';
import svelteConfig from './svelte.config.js';

/** One block a room: whatever it may not import is an error (docs/house.md). */
const roomRules = Object.entries(mayImport).map(([room, allowed]) => {
  const forbidden = Object.keys(mayImport).filter((other) => other !== room && !allowed.includes(other));
  const packages = [
    ...(room === 'store' ? [] : ['better-sqlite3', 'drizzle-orm', 'drizzle-orm/*']),
    ...(['core', 'contract', 'ui'].includes(room) ? ['node:*'] : []),
    ...(room === 'routes' || room === 'ui' ? [] : ['svelte', 'svelte/*', '$app/*', '$env/*']),
  ];
  return {
    files: [`src/${room}/**/*.{ts,svelte}`],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: `^(\\$(${forbidden.join('|')})(/|$)|(\\.\\./)+(${forbidden.join('|')})/)`,
              message: `${room} may import ${allowed.join(', ') || 'no other room'} (docs/house.md).`,
            },
            { group: packages, message: `${room} does not use this package (docs/house.md).` },
          ],
        },
      ],
    },
  };
});

export default defineConfig(
  { ignores: ['build/', '.svelte-kit/', 'node_modules/', 'data/', 'drizzle/'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  prettier,
  ...svelte.configs.prettier,
  { languageOptions: { globals: { ...globals.browser, ...globals.node } } },
  { rules: { 'no-undef': 'off', 'svelte/prefer-svelte-reactivity': 'off' } },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: {
      parserOptions: {
        extraFileExtensions: ['.svelte'],
        parser: ts.parser,
        svelteConfig,
      },
    },
  },
  ...roomRules,
);
