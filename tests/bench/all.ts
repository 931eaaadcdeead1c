import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bridges } from './bridges';
import { conversions } from './conversions';
import { engineThroughput } from './engine';
import { pages } from './pages';
import { spectra } from './spectrum';
import { takeFile } from './store';

// `npm run bench`: the whole, some two minutes; `npm run bench -- quick`: smaller sizes, for a first look.
const quick = process.argv.includes('quick');
const folder = mkdtempSync(join(tmpdir(), 'farrier-bench-'));
try {
  conversions();
  await pages(folder);
  await bridges(folder);
  spectra();
  takeFile(folder, quick ? 10_000_000 : 100_000_000);
  await engineThroughput(folder, quick ? 10 : 60);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
