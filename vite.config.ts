import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [
    tailwindcss(),
    sveltekit(),
    {
      // Its package declares no side effects, but does not say so: without this all themes land in the bundle. And of the two mergers of
      // class names that it brings along, the same code twice, one is enough.
      name: 'flowbite-svelte-is-light',
      transform: {
        filter: { id: /flowbite-svelte(-icons)?[\\/]dist[\\/].*\.(js|svelte)$/ },
        handler: (code) => ({
          code: code.replace(
            /import \{ twMerge \} from ["']tailwind-merge["']/,
            'import { cn as twMerge } from "tailwind-variants"',
          ),
          moduleSideEffects: false,
        }),
      },
    },
  ],
  server: { watch: { ignored: ['**/data/**'] } },
  test: {
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          include: ['tests/unit/**/*.test.ts'],
          setupFiles: ['tests/unit/seed.ts'],
          testTimeout: 60_000,
        },
      },
      {
        extends: true,
        test: {
          name: 'e2e',
          include: ['tests/e2e/**/*.test.ts'],
          globalSetup: 'tests/e2e/seed.ts',
          testTimeout: 240_000,
          hookTimeout: 300_000,
          fileParallelism: false,
        },
      },
    ],
  },
});
