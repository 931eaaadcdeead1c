import { randomUUID } from 'node:crypto';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { IDENTITY, type Conversion } from '$core/conversion/conversion';
import { EMPTY_PLAN } from '$contract/plan';
import { jobOf, takePath, type App } from '$service/app';
import { listed } from '$service/inspect/look-into';
import { nextTakeNumber } from '$store/takes';
import { TakeWriter } from '$store/take/writer';
import { channel } from './rig';

/** A file that somebody chose, as it came to lie on the disk of the server. */
export function onDisk(name: string, content: Uint8Array): { name: string; path: string } {
  const path = join(mkdtempSync(join(tmpdir(), 'farrier-chosen-')), 'file');
  writeFileSync(path, content);
  return { name, path };
}

export interface MadeSignal {
  name: string;
  unit?: string;
  hz: number;
  values: ArrayLike<number>;
  startS?: number;
  conversion?: Conversion;
  /** Of a computed channel. */
  formula?: string;
}
export interface MadeTake {
  id?: string;
  name?: string;
  facts?: Record<string, string>;
  folder?: string;
  plan?: string;
  startMs?: number;
  signals: MadeSignal[];
  notes?: { atS: number; says: string; kind?: string }[];
  gaps?: { signal: number; first: number; count: number; reason: string }[];
}

/** A finished take of the job with samples of the test’s own. @returns its id */
export function makeTake(app: App, made: MadeTake): string {
  const {
    facts = {},
    folder = '',
    plan = '',
    startMs = 1_790_000_000_000,
    signals,
    notes = [],
    gaps = [],
  } = made;
  const number = nextTakeNumber(app.db, jobOf(app).id);
  const id = made.id ?? randomUUID();
  const head = {
    id,
    jobId: jobOf(app).id,
    job: 'Job',
    number,
    name: made.name ?? `Take ${number}`,
    state: 'recording' as const,
    startNs: String(BigInt(startMs) * 1_000_000n),
    lengthNs: null,
    facts,
    plan: EMPTY_PLAN,
    planText: '',
    planName: plan,
    folder,
    part: null,
    coreVersion: 1,
  };
  const writer = new TakeWriter(takePath(app, id), {
    by: 'test',
    head,
    groups: signals.map((s) => ({
      offsetNs: Math.round((s.startS ?? 0) * 1e9),
      rate: { num: s.hz, den: 1 },
    })),
    signals: signals.map((s, group) => {
      const unit = s.unit ?? 'V';
      const of = s.formula
        ? channel(s.name, 'computed', null, { formula: s.formula, unit })
        : channel(s.name, 'voltage', `A1/${group + 1}`, { unit });
      return {
        channelId: of.id,
        name: s.name,
        rawUnit: 'V',
        unit,
        group,
        junction: null,
        conversion: s.conversion ?? IDENTITY,
        snapshot: of,
      };
    }),
  });
  signals.forEach((s, k) => s.values.length && writer.append(k, 0, Float32Array.from(s.values)));
  for (const { atS, says, kind = 'mark' } of notes) writer.note(Math.round(atS * 1e9), kind, says, 'Ada');
  for (const g of gaps) writer.gap(g.signal, g.first, g.count, g.reason);
  const seconds = Math.max(0, ...signals.map((s) => (s.startS ?? 0) + s.values.length / s.hz));
  const lengthNs = Math.round(seconds * 1e9);
  writer.close('complete', lengthNs);
  listed(app, { ...head, state: 'complete', lengthNs } as never, seconds * 1000);
  return id;
}
