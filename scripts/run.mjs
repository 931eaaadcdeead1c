// Runs a TypeScript file of the project in Node: bundles it with Vite first, so it runs at full speed.
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'vite';
import { rooms } from './rooms.mjs';

const [entry, ...rest] = process.argv.slice(2);
if (!entry) {
  console.error('usage: node scripts/run.mjs FILE.ts [arguments]');
  process.exit(2);
}
const outDir = mkdtempSync(join('node_modules', '.farrier-run-'));
process.on('exit', () => rmSync(outDir, { recursive: true, force: true }));
await build({
  configFile: false,
  logLevel: 'error',
  resolve: { alias: rooms },
  build: { ssr: entry, outDir, target: 'node20', emptyOutDir: false },
});
process.env.FARRIER_STUDIES = 'inline'; // a bundle is one program: worker threads would run it again
process.argv = [process.argv[0], entry, ...rest];
const name = entry.split('/').pop().replace(/\.ts$/, '.js');
await import(pathToFileURL(join(outDir, name)).href);
