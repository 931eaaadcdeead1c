import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';
import { rooms } from './scripts/rooms.mjs';

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  compilerOptions: {
    runes: ({ filename }) => (filename.includes('node_modules') ? undefined : true),
  },
  kit: {
    // The demo is checked like everything else.
    typescript: {
      config: (config) => ({ ...config, include: [...config.include, '../demo/**/*.ts'] }),
    },
    adapter: adapter({ out: 'build' }),
    alias: rooms,
    // The origin is checked against the host in hooks.server.ts, which also works behind several names.
    csrf: { trustedOrigins: ['*'] },
    csp: {
      mode: 'auto',
      directives: {
        'default-src': ['self'],
        'script-src': ['self'],
        'style-src': ['self', 'unsafe-inline'],
        'img-src': ['self', 'data:', 'blob:'],
        'font-src': ['self', 'data:'],
        'connect-src': ['self'],
        'worker-src': ['self'],
        'object-src': ['none'],
        'base-uri': ['none'],
        'form-action': ['self'],
        'frame-ancestors': ['none'],
      },
    },
  },
};
