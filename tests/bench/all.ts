import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bridges } from './bridges';
import { conversions } from './conversions';
import { exchange } from './exchange';
import { field } from './field';
import { stations } from './stations';
import { engineThroughput, sustained } from './engine';
import { inspecting } from './inspect';
import { modal } from './modal';
import { pages } from './pages';
import { hourOfMemory, liveBoard, ruleLatency } from './record';
import { spectra } from './spectrum';
import { radio } from './radio';
import { radioMeasuring } from './radio-measuring';
import { radioPage } from './radio-page';
import { studies } from './studies';
import { studyMemory } from './study-memory';
import { studyThreads } from './study-threads';
import { takeFile } from './store';

// `npm run bench`: the whole, some five minutes; `quick`: smaller sizes, for a first look; `long`: ten minutes of recording at full
// rate on top, checked sample by sample (needs 5 GB of disk).
const quick = process.argv.includes('quick');
const folder = mkdtempSync(join(tmpdir(), 'farrier-bench-'));
try {
  conversions();
  await pages(folder);
  await bridges(folder);
  spectra();
  studies(quick);
  radio();
  radioMeasuring();
  modal();
  studyMemory(quick);
  await studyThreads(folder, quick ? 16_000_000 : 100_000_000);
  await inspecting(folder, quick ? 10_000_000 : 100_000_000, quick ? 100e6 : 1e9);
  await field();
  await stations();
  await exchange(folder, quick ? 20_000_000 : 100_000_000);
  takeFile(folder, quick ? 10_000_000 : 100_000_000);
  ruleLatency();
  hourOfMemory(folder, quick ? 6 : 60);
  await liveBoard(folder);
  await radioPage(folder, quick ? 60 : 600);
  await engineThroughput(folder, quick ? 10 : 60);
  if (process.argv.includes('long')) sustained(folder, 600);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
