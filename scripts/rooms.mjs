import { fileURLToPath } from 'node:url';

const folder = (/** @type {string} */ path) =>
  fileURLToPath(new URL(`../${path}`, import.meta.url)).replace(/\/$/, '');

/** Import names of the rooms, one list for the application, the tests and the scripts. */
export const rooms = {
  $core: folder('src/core'),
  $contract: folder('src/contract'),
  $engine: folder('src/engine'),
  $store: folder('src/store'),
  $service: folder('src/service'),
  $ui: folder('src/ui'),
  $demo: folder('demo'),
};

/** What each room may import of the others (docs/house.md). */
export const mayImport = {
  core: [],
  contract: ['core'],
  store: ['core', 'contract'],
  engine: ['core', 'contract', 'store'],
  service: ['core', 'contract', 'store', 'engine'],
  routes: ['service', 'contract', 'ui'],
  ui: ['core', 'contract'],
};
