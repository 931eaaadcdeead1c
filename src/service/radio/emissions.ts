import { randomUUID } from 'node:crypto';
import { correctedUnit } from '$core/emissions/corrections';
import { planScan, ScanRecord } from '$core/emissions/scan';
import { badInput, conflict, FarrierError, notFound } from '$core/errors';
import type { Gathered } from '$core/radio/gathering';
import type { RadioView } from '$contract/radio';
import {
  EMISSION_DEFAULTS,
  EmissionSettings,
  encodeLines,
  type EmissionRun,
  type EmissionView,
} from '$contract/radio-emissions';
import { getHouse, putHouse } from '$store/house';
import { deleteKept } from '$store/radio-kept';
import { jobOf, log, type App } from '../app';
import { readPicture } from '../boards';
import { check } from '../check';
import {
  correctedLines,
  findSuspects,
  keepRun,
  listRuns,
  measured,
  newRun,
  ofDetector,
  readRun,
  tablesOf,
  type RawLine,
} from './emission-runs';
import { scanOf, seekStep, weighStep } from './emission-steps';
import type { Gatherings } from './gatherings';
import type { EmissionPort } from './port';
import { corrections, limitSets } from './shelf';

const TOLD_EVERY_MS = 250;
const PICTURES_MOST = 8;

interface Bench {
  settings: EmissionSettings;
  running: EmissionView['running'];
  beganMs: number;
  says: string;
  /** The look that runs, range by range. */
  run: EmissionRun | null;
  records: ScanRecord[];
}

/** Looks for emissions over several ranges, and measures what is suspicious: one bench a receiver. */
export class EmissionBench implements EmissionPort {
  private readonly benches = new Map<string, Bench>();
  private toldMs = 0;

  constructor(
    private readonly app: App,
    private readonly gatherings: Gatherings,
    private readonly receivers: () => Pick<
      RadioView,
      'unit' | 'name' | 'receiver' | 'answering' | 'standIn' | 'recorded'
    >[],
  ) {}

  private bench(unit: string): Bench {
    const known = this.benches.get(unit);
    if (known) return known;
    const kept = EmissionSettings.safeParse(getHouse(this.app.db, `emissions ${unit}`));
    const bench: Bench = {
      settings: kept.success ? kept.data : EMISSION_DEFAULTS,
      running: null,
      beganMs: 0,
      says: '',
      run: null,
      records: [],
    };
    this.benches.set(unit, bench);
    return bench;
  }
  private receiver(unit: string) {
    const found = this.receivers().find((r) => r.unit === unit && !r.recorded);
    if (!found) throw notFound('receiver', unit);
    return found;
  }
  private tell(now = false): void {
    if (!now && Date.now() - this.toldMs < TOLD_EVERY_MS) return;
    this.toldMs = Date.now();
    this.app.live.bench('emissions');
  }
  private moved(bench: Bench, share: number, now = false): void {
    if (!bench.running) return;
    const elapsed = (Date.now() - bench.beganMs) / 1000;
    bench.running.share = share;
    bench.running.leftS = share > 0.02 ? (elapsed * (1 - share)) / share : NaN;
    this.tell(now);
  }

  views(): EmissionView[] {
    return this.receivers().flatMap((r) => {
      if (r.recorded) return [];
      const { settings, running, says } = this.bench(r.unit);
      const { fault, takesS } = this.plans(r.unit, settings);
      const { unit, name, answering, standIn } = r;
      return [{ unit, name, answering, standIn, settings, fault, takesS, running, says }];
    });
  }

  /** How the ranges are gone through; or what cannot be had. */
  private plans(unit: string, settings: EmissionSettings) {
    const { receiver } = this.receiver(unit);
    const kept = corrections(this.app).list();
    try {
      const plans = settings.ranges.map((r) => {
        const missing = r.through.find((name) => !kept.some((c) => c.name === name));
        if (missing) throw badInput('through', missing, 'This table of correction is not kept any more.');
        const as = correctedUnit(tablesOf(r, kept));
        if (typeof as !== 'string') throw badInput('through', r.through.join(', '), as.fault);
        return planScan(scanOf(r), receiver);
      });
      return { plans, fault: '', takesS: plans.reduce((s, p) => s + p.seconds, 0) };
    } catch (error) {
      const { text } = error as FarrierError;
      return { plans: [], fault: [text.where, text.what, text.next].filter(Boolean).join(': '), takesS: 0 };
    }
  }

  /** Looks otherwise. @throws `bad_input`, `conflict` while it runs */
  change(unit: string, change: Partial<EmissionSettings>): EmissionView[] {
    this.receiver(unit);
    const bench = this.bench(unit);
    this.still(bench);
    bench.settings = check(EmissionSettings, { ...bench.settings, ...change });
    bench.says = '';
    putHouse(this.app.db, `emissions ${unit}`, bench.settings);
    this.tell(true);
    return this.views();
  }
  private still(bench: Bench): void {
    if (bench.running)
      throw conflict('emissions', 'They are being measured.', 'Wait for the end, or stop it first.');
  }

  /** Begins a look over all ranges; it goes on behind. @throws `bad_input` for what cannot be had, `conflict` while it runs */
  look(unit: string, ambient: boolean, by: string): EmissionView[] {
    const { answering, receiver, name } = this.receiver(unit);
    const bench = this.bench(unit);
    this.still(bench);
    const { plans, fault } = this.plans(unit, bench.settings);
    const wrong = fault || (answering ? '' : 'The receiver does not answer.');
    if (wrong) throw badInput('ranges', bench.settings.ranges.length, wrong);
    const { settings } = bench;
    const runs = listRuns(this.app.db, jobOf(this.app).id);
    const run = newRun(randomUUID(), Math.max(0, ...runs.map((r) => r.number)) + 1, {
      settings,
      ambient,
      limits: limitSets(this.app).find(settings.limits),
      corrections: corrections(this.app).list(),
      receiver: name,
      accuracy: receiver.accuracy,
    });
    Object.assign(bench, {
      run,
      says: '',
      beganMs: Date.now(),
      records: plans.map((p) => new ScanRecord(p)),
    });
    bench.running = { what: 'look', share: 0, leftS: NaN, runId: run.id, suspect: null, ambient };
    this.tell(true);
    void this.scan(unit, bench, plans, by);
    return this.views();
  }

  private async scan(
    unit: string,
    bench: Bench,
    plans: ReturnType<typeof planScan>[],
    by: string,
  ): Promise<void> {
    const run = bench.run!;
    const jobId = jobOf(this.app).id;
    const steps = plans.flatMap((p) => p.steps);
    const rangeOf = plans.flatMap((p, r) => p.steps.map(() => r));
    try {
      await this.gatherings.run(unit, 'a look for emissions', steps, {
        gathered: (step, got) => {
          if (got.does === 'band') bench.records[rangeOf[step]].put(got);
          this.moved(bench, (step + 1) / steps.length);
        },
      });
      run.partly = false;
    } catch (error) {
      bench.says = ended(error, 'Stopped: what was looked at stays.');
    }
    run.tookS = (Date.now() - bench.beganMs) / 1000;
    run.overloaded = bench.records.flatMap((r, k) => (r.overload ? [k] : []));
    const raw = this.raw(bench);
    // One that was ended before anything was heard is none.
    if (raw.some((l) => l.levels.some(Number.isFinite))) {
      findSuspects(run, correctedLines(run, raw), run.ambient ? null : this.lastAmbient(jobId));
      try {
        keepRun(this.app.db, jobId, run, raw);
        const says = run.suspects.length === 1 ? '1 suspect' : `${run.suspects.length} suspects`;
        log(
          this.app,
          'radio',
          `Look ${run.number} for emissions of ${run.device}${run.ambient ? ', without it' : ''}: ${says}.`,
          { by },
        );
      } catch (error) {
        bench.says = `The look could not be kept: ${(error as Error).message}`;
      }
    }
    Object.assign(bench, { running: null, run: null });
    this.tell(true);
  }
  private raw = ({ run, records }: Bench): RawLine[] =>
    records.map((r, k) => ({
      startHz: r.startHz,
      stepHz: r.stepHz,
      levels: ofDetector(r, run!.settings.ranges[k].detector),
    }));

  private lastAmbient(jobId: string) {
    const last = listRuns(this.app.db, jobId).findLast((r) => r.ambient);
    if (!last) return null;
    const { run, raw } = readRun(this.app.db, last.id);
    return { run, lines: correctedLines(run, raw) };
  }

  runs(): EmissionRun[] {
    const running = [...this.benches.values()].flatMap((b) => b.run ?? []);
    return [...listRuns(this.app.db, jobOf(this.app).id), ...running];
  }
  /** The line of a look, corrected; of one that runs as far as it is. @throws `not_found` */
  lines(id: string): Uint8Array<ArrayBuffer> {
    const bench = [...this.benches.values()].find((b) => b.run?.id === id);
    if (bench) return encodeLines(correctedLines(bench.run!, this.raw(bench)));
    const { run, raw } = readRun(this.app.db, id);
    return encodeLines(correctedLines(run, raw));
  }

  /** Measures suspects one after the other: sought around, then weighed. @param ids none: all @throws `conflict` while something runs */
  measure(id: string, unit: string, ids: readonly number[]): EmissionView[] {
    const { answering, receiver } = this.receiver(unit);
    const bench = this.bench(unit);
    this.still(bench);
    const { run } = readRun(this.app.db, id);
    if (!answering) throw badInput('receiver', unit, 'The receiver does not answer.');
    if (!receiver.tunes) throw badInput('receiver', unit, 'This receiver cannot be tuned.');
    const wanted = run.suspects.filter((s) => ids.length === 0 || ids.includes(s.id));
    if (wanted.length === 0) throw badInput('suspects', ids.join(), 'There is no suspect to be measured.');
    Object.assign(bench, { says: '', beganMs: Date.now() });
    bench.running = {
      what: 'measure',
      share: 0,
      leftS: NaN,
      runId: id,
      suspect: wanted[0].id,
      ambient: false,
    };
    this.tell(true);
    void this.weigh(unit, bench, id, wanted.map((s) => s.id)); // prettier-ignore
    return this.views();
  }

  private async weigh(unit: string, bench: Bench, id: string, ids: number[]): Promise<void> {
    try {
      for (const [k, suspect] of ids.entries()) {
        // Notes may be written meanwhile: each is read and kept by itself.
        const before = readRun(this.app.db, id).run;
        const found = before.suspects.find((s) => s.id === suspect);
        if (!found) continue;
        bench.running!.suspect = suspect;
        this.moved(bench, k / ids.length, true);
        const hz = await this.seek(unit, before, found.hz);
        const step = weighStep(hz, before.settings, this.receiver(unit).receiver);
        const [got] = await this.gather(unit, [step], (share) =>
          this.moved(bench, (k + 0.2 + 0.8 * share) / ids.length),
        );
        if (got.does !== 'weigh') continue;
        const { run, jobId } = readRun(this.app.db, id);
        measured(run, suspect, got.weighed[0], got.overload);
        keepRun(this.app.db, jobId, run);
        this.moved(bench, (k + 1) / ids.length, true);
      }
    } catch (error) {
      bench.says = ended(error, 'Stopped: what was measured stays.');
    }
    bench.running = null;
    this.tell(true);
  }

  /** The highest place around a suspect, by peaks over some time. */
  private async seek(unit: string, { settings }: EmissionRun, hz: number): Promise<number> {
    const step = seekStep(hz, settings, this.receiver(unit).receiver);
    const [got] = step ? await this.gather(unit, [step]) : [];
    if (got?.does !== 'band') return hz;
    let best = 0;
    got.highest.forEach((v, l) => v > got.highest[best] && (best = l));
    return got.startHz + best * got.stepHz;
  }
  private async gather(
    unit: string,
    steps: Parameters<Gatherings['run']>[2],
    share?: (share: number) => void,
  ): Promise<Gathered[]> {
    const out: Gathered[] = [];
    await this.gatherings.run(unit, 'emissions', steps, {
      gathered: (step, got) => void (out[step] = got),
      ...(share && { share: (_step, s) => share(s) }),
    });
    return out;
  }

  stop(unit: string): void {
    if (this.benches.get(unit)?.running) this.gatherings.stop(unit);
  }

  /** A note on a suspect, and whether it is ambient. @throws `not_found` */
  note(id: string, suspect: number, change: { note?: string; ambient?: boolean }): EmissionRun {
    return this.alter(id, (run) => {
      const found = run.suspects.find((s) => s.id === suspect);
      if (!found) throw notFound('suspect', String(suspect));
      Object.assign(found, change);
    });
  }
  private alter(id: string, by: (run: EmissionRun) => void): EmissionRun {
    const { run, jobId } = readRun(this.app.db, id);
    by(run);
    keepRun(this.app.db, jobId, run);
    this.tell(true);
    return run;
  }
  /** Keeps a picture of the arrangement. @throws `bad_input` for another kind of file */
  addPicture(id: string, content: Buffer): EmissionRun {
    const { type } = readPicture(content);
    if (type === 'image/webp') throw badInput('picture', 'WebP', 'Choose a PNG or JPEG picture.');
    return this.alter(id, (run) => {
      if (run.pictures.length >= PICTURES_MOST)
        throw conflict('pictures', `There are ${PICTURES_MOST} already.`, 'Take one away first.');
      run.pictures.push(`data:${type};base64,${content.toString('base64')}`);
    });
  }
  dropPicture = (id: string, at: number): EmissionRun =>
    this.alter(id, (run) => {
      if (!run.pictures[at]) throw notFound('picture', String(at));
      run.pictures.splice(at, 1);
    });

  /** Takes a look away. @throws `not_found`, `conflict` while its suspects are measured */
  drop(id: string, by: string): void {
    const { run } = readRun(this.app.db, id);
    if ([...this.benches.values()].some((b) => b.running?.runId === id))
      throw conflict('the look', 'Its suspects are being measured.', 'Stop that first.');
    deleteKept(this.app.db, id);
    log(this.app, 'radio', `Look ${run.number} for emissions of ${run.device} was taken away.`, { by });
    this.tell(true);
  }
}

function ended(error: unknown, cancelled: string): string {
  const { code, text } = error as FarrierError;
  if (code === 'cancelled') return cancelled;
  return [text?.what ?? (error as Error).message, text?.next].filter(Boolean).join(' ');
}
