import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';

declare module 'vitest' {
  export interface ProvidedContext {
    /** Folder with the demo's data, to be copied and never changed. */
    demo: string;
  }
}

/** Makes the demo's data in a folder. @throws Error with what the seeding said */
export function seed(folder: string): void {
  const { status, stderr } = spawnSync('node', ['scripts/run.mjs', 'demo/seed.ts', folder], {
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(`seeding failed: ${stderr}`);
}

/** The demo's data are made once for all browser tests; each works on a copy. */
export default function setup({ provide }: TestProject): () => void {
  const folder = mkdtempSync(join(tmpdir(), 'farrier-demo-'));
  seed(folder);
  provide('demo', folder);
  return () => rmSync(folder, { recursive: true, force: true });
}
