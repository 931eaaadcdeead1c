import { levelUncertainty, type ReceiverAccuracy } from '$core/radio/uncertainty';
import { correctedUnit, correctionDb, DBUV_OF_DBM } from '$core/emissions/corrections';
import { hasQuasiPeak } from '$core/emissions/bands';
import { roomTo } from '$core/emissions/limits';
import type { ScanLine } from '$core/emissions/scan';
import { isAmbient, suspectsOf, type CorrectedLine } from '$core/emissions/suspects';
import { notFound } from '$core/errors';
import {
  SUSPECTS_MOST,
  type EmissionLine,
  type EmissionRun,
  type EmissionSettings,
  type Suspect,
} from '$contract/radio-emissions';
import type { Correction, LimitSet } from '$contract/radio-kept';
import type { Db } from '$store/database';
import { getKept, listKept, putKept } from '$store/radio-kept';

/** Readings at the receiver over one range, dBm; the line of the detector that the range asked for. */
export type RawLine = Pick<ScanLine, 'startHz' | 'stepHz'> & { levels: Float32Array };
const KIND = 'emissions';

/** Tables that a range goes through, in the order of its names; those that are not kept are left out. */
export const tablesOf = (
  range: EmissionSettings['ranges'][number],
  kept: readonly Correction[],
): Correction[] => range.through.flatMap((name) => kept.find((c) => c.name === name) ?? []);

/** What the sentence says, as numbers of one detector. */
export const ofDetector = (
  line: ScanLine,
  detector: EmissionSettings['ranges'][number]['detector'],
): Float32Array => (detector === 'peak' ? line.highest : detector === 'average' ? line.average : line.rms);

/** ± of a corrected level at 95 %, dB: the receiver’s level and flatness, and every table. */
function expandedOf(accuracy: ReceiverAccuracy | null, tables: readonly Correction[]): number {
  const receiver = accuracy ? levelUncertainty(accuracy, 60, 1) : NaN;
  return Math.hypot(receiver, ...tables.map((t) => t.expanded));
}

/** Readings as they are compared with limits. */
export function correctedLines(run: EmissionRun, raw: readonly RawLine[]): EmissionLine[] {
  return raw.map(({ startHz, stepHz, levels }, range) => {
    const tables = tablesOf(run.settings.ranges[range], run.corrections);
    return {
      range,
      startHz,
      stepHz,
      levels: levels.map((v, l) => v + DBUV_OF_DBM + correctionDb(tables, startHz + l * stepHz)),
    };
  });
}
/** A level at the receiver in the unit of its range. @param hz by which the range is found */
function correctedLevel(run: EmissionRun, hz: number, dbm: number): number {
  const range =
    run.settings.ranges.find((r) => hz >= r.from * 1e6 && hz <= r.to * 1e6) ?? run.settings.ranges[0];
  return dbm + DBUV_OF_DBM + correctionDb(tablesOf(range, run.corrections), hz);
}
const withWidths = (run: EmissionRun, lines: readonly EmissionLine[]): CorrectedLine[] =>
  lines.map((l) => ({ ...l, bandwidth6Hz: run.settings.ranges[l.range].resolving * 1e3 }));

/** Finds the suspects of a look. @param ambient the last look without the device, if any */
export function findSuspects(
  run: EmissionRun,
  lines: readonly EmissionLine[],
  ambient: { run: EmissionRun; lines: EmissionLine[] } | null,
): void {
  const limits = run.limits?.lines ?? [];
  const found = suspectsOf(withWidths(run, lines), limits, run.settings.margin);
  const there = ambient && withWidths(ambient.run, ambient.lines);
  run.more = Math.max(0, found.length - SUSPECTS_MOST);
  run.suspects = found.slice(0, SUSPECTS_MOST).map((f, k): Suspect => {
    const room = roomTo(limits, f.hz, { peak: f.level, quasiPeak: null, average: null })!;
    return {
      id: k + 1,
      hz: f.hz,
      level: f.level,
      ambient: there !== null && isAmbient(there, f),
      note: '',
      measured: null,
      limit: room.level,
      limitOf: room.detector,
      room: room.room,
    };
  });
}

/** Takes over what was measured of a suspect. @param dbm readings at the receiver */
export function measured(
  run: EmissionRun,
  id: number,
  { hz, peak, quasiPeak, average }: { hz: number; peak: number; quasiPeak: number; average: number },
  overload: boolean,
): void {
  const suspect = run.suspects.find((s) => s.id === id);
  if (!suspect) return;
  const level = (dbm: number) => correctedLevel(run, hz, dbm);
  const read = {
    peak: level(peak),
    quasiPeak: hasQuasiPeak(hz) ? level(quasiPeak) : null,
    average: level(average),
  };
  suspect.measured = { atMs: Date.now(), hz, ...read, overload };
  const room = roomTo(run.limits?.lines ?? [], hz, read);
  if (room) Object.assign(suspect, { room: room.room, limit: room.level, limitOf: room.detector });
}

/** A look that begins. */
export const newRun = (
  id: string,
  number: number,
  of: {
    settings: EmissionSettings;
    ambient: boolean;
    limits: LimitSet | null;
    corrections: Correction[];
    receiver: string;
    accuracy: ReceiverAccuracy | null;
  },
): EmissionRun => ({
  id,
  number,
  device: of.settings.device || 'Device without a name',
  atMs: Date.now(),
  tookS: 0,
  ambient: of.ambient,
  partly: true,
  settings: of.settings,
  limits: of.limits,
  // As they are now: a table that is corrected later does not change what was read through the former one.
  corrections: of.corrections.filter((c) => of.settings.ranges.some((r) => r.through.includes(c.name))),
  receiver: of.receiver,
  expanded: of.settings.ranges.map((r) => expandedOf(of.accuracy, tablesOf(r, of.corrections))),
  unit: of.settings.ranges.map((r) => {
    const unit = correctedUnit(tablesOf(r, of.corrections));
    return typeof unit === 'string' ? unit : 'dBµV';
  }),
  overloaded: [],
  suspects: [],
  more: 0,
  pictures: [],
});

export const listRuns = (db: Db, jobId: string): EmissionRun[] =>
  listKept(db, KIND, jobId).map((row) => row.body as unknown as EmissionRun);
/** @throws `not_found` */
export function readRun(db: Db, id: string): { run: EmissionRun; raw: RawLine[]; jobId: string } {
  const row = getKept(db, id);
  if (row.kind !== KIND || !row.jobId) throw notFound('look for emissions', id);
  return { run: row.body as unknown as EmissionRun, raw: row.arrays as RawLine[], jobId: row.jobId };
}
export const keepRun = (db: Db, jobId: string, run: EmissionRun, raw?: readonly RawLine[]): void =>
  putKept(
    db,
    {
      id: run.id,
      jobId,
      kind: KIND,
      name: run.device,
      at: run.atMs,
      body: run as unknown as Record<string, unknown>,
    },
    raw?.map(({ startHz, stepHz, levels }) => ({ startHz, stepHz, levels })),
  );
