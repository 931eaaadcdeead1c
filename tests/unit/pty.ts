import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { vi } from 'vitest';

/** A pair of connected serial lines. @param closing gets what ends them */
export async function ptyPair(folder: string, closing: (() => unknown)[]): Promise<{ ours: string; theirs: string; process: ChildProcess }> {
  const [ours, theirs] = ['ours', 'theirs'].map((n) => join(folder, `${n}-${closing.length}-${Date.now()}`));
  const process = spawn('socat', [`pty,raw,echo=0,link=${ours}`, `pty,raw,echo=0,link=${theirs}`], { stdio: 'ignore' });
  closing.push(() => process.kill());
  await vi.waitFor(
    () => {
      if (!existsSync(ours) || !existsSync(theirs)) throw new Error('socat has not made its lines yet');
    },
    { timeout: 10_000 },
  );
  return { ours, theirs, process };
} // prettier-ignore
