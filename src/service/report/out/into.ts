import { randomUUID } from 'node:crypto';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { OutgoingState, ReportKind } from '$contract/outgoing';
import type { App } from '../../app';
import { beginOutgoing } from '../../outgoing';

/** Begins to put a report’s pages into a file that somebody sent. @throws `not_found` */
export async function putInto(
  app: App,
  { how, ...ask }: { report: string; takes: string[]; as: Exclude<ReportKind, 'page'>; how: 'append' | 'replace' },
  file: Uint8Array,
  by: string,
): Promise<OutgoingState> {
  mkdirSync(join(app.folder, 'outgoing'), { recursive: true });
  const path = join(app.folder, 'outgoing', `${randomUUID()}.into`);
  writeFileSync(path, file);
  try {
    return await beginOutgoing(app, { what: 'report', ...ask, into: { path, how } }, by);
  } catch (error) {
    rmSync(path, { force: true });
    throw error;
  }
} // prettier-ignore
