import { randomUUID } from 'node:crypto';
import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { FarrierError } from '$core/errors';
import type { App } from '$service/app';
import { reportMaking, type ReportAsk } from '$service/report/out/written';

/** A report as the house writes it, whole. @throws what made it fail */
export async function made(
  app: App,
  ask: ReportAsk,
  {
    by = 'Ada',
    told = () => undefined,
    signal = new AbortController().signal,
  }: { by?: string; told?: (share: number) => void; signal?: AbortSignal } = {},
): Promise<{ name: string; file: string; bytes: Buffer; says: string[]; archive: boolean }> {
  mkdirSync(join(app.folder, 'outgoing'), { recursive: true });
  const file = join(app.folder, 'outgoing', randomUUID());
  const { name, run } = reportMaking(app, ask, by);
  const done = await run(file, { progress: told, signal });
  if ('fault' in done) throw new FarrierError('unavailable', done.fault);
  return { name, file, bytes: readFileSync(file), says: done.says, archive: done.archive ?? false };
}
export const printed = async (
  app: App,
  report: string,
  takes: readonly string[],
  told?: (share: number) => void,
) => {
  const { name, bytes } = await made(app, { report, takes, as: 'pdf' }, { told });
  return { name, pdf: bytes };
};
