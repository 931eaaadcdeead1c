import { randomUUID } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { badInput, conflict, FarrierError, notFound } from '$core/errors';
import { pointPower, sourceLeft, type PointPower } from '$core/noise-figure/findings';
import { changedSince, type Basis } from '$core/noise-figure/own-noise';
import { excessAt } from '$core/noise-figure/sources';
import { byY } from '$core/noise-figure/y-factor';
import { convertUnit, quantityOf } from '$core/quantities/quantities';
import { commonOf } from '$contract/channel';
import type { Reading } from '$contract/engine';
import type { RadioView } from '$contract/radio';
import {
  NOISE_STATES,
  NoiseSettings,
  type NoisePoint,
  type NoiseResult,
  type NoiseSource,
  type NoiseState,
  type NoiseView,
} from '$contract/radio-noise';
import { getChannel } from '$store/entities';
import { deleteKept, getKept, putKept } from '$store/radio-kept';
import { jobOf, log, type App } from '../app';
import { check } from '../check';
import type { Gatherings } from './gatherings';
import { noisePoints, noiseSteps, settingsFault } from './noise-points';
import { followSettings, keepNoise, listNoise, loadNoise, noPowers, type NoiseTable } from './noise-state';
import type { NoisePort } from './port';
import { corrections, noiseSources } from './shelf';

/** Time from switching a source until its noise stands, ms. */
const SETTLES_MS = 150;
/** Pages are told this often at the most while it runs, ms. */
const TOLD_EVERY_MS = 250;

/** Noise figure and gain by the Y-factor method, guided: one bench a receiver. */
export class NoiseBench implements NoisePort {
  private readonly benches = new Map<string, NoiseTable>();
  private toldMs = 0;

  constructor(
    private readonly app: App,
    private readonly gatherings: Gatherings,
    private readonly receivers: () => Pick<
      RadioView,
      'unit' | 'name' | 'receiver' | 'answering' | 'standIn' | 'recorded'
    >[],
  ) {}

  private bench(unit: string): NoiseTable {
    const known = this.benches.get(unit) ?? loadNoise(this.app.db, unit);
    this.benches.set(unit, known);
    return known;
  }
  private keep(unit: string): void {
    keepNoise(this.app.db, unit, this.bench(unit));
    this.tell(true);
  }
  private tell(now = false): void {
    if (!now && Date.now() - this.toldMs < TOLD_EVERY_MS) return;
    this.toldMs = Date.now();
    this.app.live.bench('noise');
  }
  private receiver(unit: string) {
    const found = this.receivers().find((r) => r.unit === unit && !r.recorded);
    if (!found) throw notFound('receiver', unit);
    return found;
  }

  private source(bench: NoiseTable): NoiseSource | null {
    const kept = noiseSources(this.app).find(bench.settings.source);
    return kept && bench.forNow ? { ...kept, points: bench.forNow } : kept;
  }
  private basis(unit: string, bench: NoiseTable): Basis {
    const { receiver } = this.receiver(unit);
    const { each, resolving, smoothing } = bench.settings;
    const source = this.source(bench);
    return {
      receiver: unit,
      gainDb: receiver.gainDb,
      sampleRateHz: receiver.sampleRateHz,
      points: bench.hz.join(),
      widths: `${each} ${resolving} ${smoothing}`,
      source: source ? JSON.stringify([source.serial, source.points]) : '',
      roomK: bench.roomK,
    };
  }

  views(): NoiseView[] {
    return this.receivers().flatMap((r) => (r.recorded ? [] : [this.view(r)]));
  }
  private view({ unit, name, standIn, answering }: ReturnType<NoiseBench['receiver']>): NoiseView {
    const bench = this.bench(unit);
    const { settings, device, own, hz, powers, running, says, kept, forNow } = bench;
    const done = Object.fromEntries(
      NOISE_STATES.map((s) => [s, powers[s].filter((p) => p !== null).length]),
    ) as NoiseView['done'];
    const elapsed = running ? (Date.now() - running.beganMs) / 1000 : 0;
    return {
      unit,
      name,
      standIn,
      answering,
      settings,
      device,
      hz,
      fault: this.fault(unit, bench),
      own,
      stale: own ? changedSince(own.basis, this.basis(unit, bench)) : [],
      done,
      running: running && {
        state: running.state,
        share: running.share,
        leftS: running.share > 0.02 ? (elapsed * (1 - running.share)) / running.share : NaN,
      },
      says,
      points: this.points(bench),
      changedForNow: forNow !== null,
      kept,
    };
  }

  private fault(unit: string, bench: NoiseTable): string {
    return settingsFault(bench.settings, this.source(bench), this.receiver(unit).receiver);
  }
  private points(bench: NoiseTable): NoisePoint[] {
    return noisePoints(bench, this.source(bench), (name) => corrections(this.app).find(name)?.points ?? []);
  }

  /** Measures otherwise. @throws `bad_input`, `conflict` while it measures */
  change(unit: string, change: Partial<NoiseSettings>): NoiseView[] {
    this.receiver(unit);
    const bench = this.bench(unit);
    this.still(bench);
    const next = check(NoiseSettings, { ...bench.settings, ...change });
    if ('source' in change) bench.forNow = null;
    // What was measured with the device stands on these: it would be another device's.
    if (change.each !== undefined || change.resolving !== undefined || change.smoothing !== undefined)
      bench.powers = noPowers(bench.hz.length);
    bench.settings = next;
    if (!next.roomBy) bench.roomK = next.room;
    bench.says = '';
    followSettings(bench);
    this.keep(unit);
    return this.views();
  }
  /** Another device: what was measured of the one before stays where it was kept. */
  changeDevice(unit: string, device: string): NoiseView[] {
    this.receiver(unit);
    const bench = this.bench(unit);
    this.still(bench);
    bench.device = device.trim();
    for (const state of ['through off', 'through on'] as const) bench.powers[state].fill(null);
    bench.kept = null;
    bench.says = '';
    this.keep(unit);
    return this.views();
  }
  /** A table of the source for this time only; null: the one that is kept. @throws `bad_input` */
  changeForNow(unit: string, points: NoiseSource['points'] | null): NoiseView[] {
    const bench = this.bench(unit);
    this.still(bench);
    if (!noiseSources(this.app).find(bench.settings.source))
      throw badInput('source', bench.settings.source, 'Choose a source first.');
    bench.forNow = points && [...points].sort((a, b) => a.hz - b.hz);
    this.tell(true);
    return this.views();
  }
  private still(bench: NoiseTable): void {
    if (bench.running)
      throw conflict('noise figure', 'It is being measured.', 'Wait for its end, or stop it first.');
  }

  /** The room as a channel reads it now, or as it is stated. @throws `unavailable` where the channel reads nothing */
  private async room(bench: NoiseTable): Promise<number> {
    const { room, roomBy } = bench.settings;
    if (!roomBy) return room;
    const channel = getChannel(this.app.db, roomBy);
    const unit = commonOf(channel).unit;
    if (quantityOf(unit) !== 'temperature')
      throw badInput('room', channel.name, 'Choose a channel that measures a temperature.');
    const [reading] = (await this.app.engine.command({
      do: 'read',
      channelIds: [roomBy],
      samples: 1,
    })) as Reading[];
    const value = reading?.values.at(-1);
    if (value === undefined || !Number.isFinite(value))
      throw new FarrierError('unavailable', {
        what: `${channel.name} reads nothing now.`,
        where: 'the room',
        next: 'State the temperature of the room, or mend the channel.',
      });
    return convertUnit(value, unit, 'K');
  }

  /** Measures in some states, one after the other. With a driven source it is switched by itself. It goes on behind; pages are told.
   *  @throws `bad_input` for settings that cannot be measured, `conflict` while it measures or where the own noise does not hold */
  async measure(unit: string, states: NoiseState[], by: string): Promise<NoiseView[]> {
    const { answering } = this.receiver(unit);
    const bench = this.bench(unit);
    this.still(bench);
    const wrong = this.fault(unit, bench) || (answering ? '' : 'The receiver does not answer.');
    if (wrong) throw badInput('settings', bench.settings.source ?? 'none', wrong);
    const roomK = await this.room(bench);
    // Somebody else may have begun while the room was read.
    this.still(bench);
    bench.roomK = roomK;
    const through = states.some((s) => s.startsWith('through'));
    if (through) {
      if (!bench.own)
        throw conflict(
          'the receiver’s own noise',
          'It was not taken yet.',
          'Connect the source to the receiver, and measure that first.',
        );
      const stale = changedSince(bench.own.basis, this.basis(unit, bench));
      if (stale.length)
        throw conflict(
          'the receiver’s own noise',
          `It no longer holds: ${stale.join(', ')} changed.`,
          'Take it again, or change back.',
        );
    }
    bench.says = '';
    bench.kept = null;
    bench.running = {
      state: states[0],
      done: 0,
      of: states.length * bench.hz.length,
      beganMs: Date.now(),
      share: 0,
    };
    this.tell(true);
    void this.run(unit, bench, states, by);
    return this.views();
  }

  private async run(unit: string, bench: NoiseTable, states: NoiseState[], by: string): Promise<void> {
    const { settings: s, hz } = bench;
    const { drive } = s;
    const { steps, independent } = noiseSteps(s, hz, this.receiver(unit).receiver);
    try {
      for (const [k, state] of states.entries()) {
        if (drive) {
          await this.app.engine.command({
            do: 'output',
            channelId: drive,
            value: state.endsWith('on') ? 1 : 0,
          });
          await pause(SETTLES_MS);
        }
        const powers = (bench.powers[state] = new Array<PointPower | null>(hz.length).fill(null));
        Object.assign(bench.running!, { state, done: k * hz.length });
        await this.gatherings.run(unit, 'noise figure', steps, {
          gathered: (step, got) => {
            if (got.does !== 'band') return;
            powers[step] = pointPower(got, independent);
            this.moved(bench, k * hz.length + step + 1);
          },
          share: (step, share) => this.moved(bench, k * hz.length + step + share),
        });
        this.whole(unit, bench, state, by);
      }
    } catch (error) {
      const { code, text } = error as FarrierError;
      bench.says =
        code === 'cancelled'
          ? 'Stopped: what was measured stays.'
          : [text?.what ?? (error as Error).message, text?.next].filter(Boolean).join(' ');
    } finally {
      bench.running = null;
      if (drive)
        await this.app.engine.command({ do: 'output', channelId: drive, value: 0 }).catch(() => undefined);
      this.keep(unit);
    }
  }
  private moved(bench: NoiseTable, done: number): void {
    if (!bench.running) return;
    bench.running.done = done;
    bench.running.share = done / bench.running.of;
    this.tell();
  }

  /** A state was measured at every point. */
  private whole(unit: string, bench: NoiseTable, state: NoiseState, by: string): void {
    const where = state.startsWith('own') ? 'own' : 'through';
    const on = bench.powers[`${where} on`];
    const off = bench.powers[`${where} off`];
    const pairs = bench.hz.flatMap((_, k) => (on[k] && off[k] ? [{ on: on[k], off: off[k] }] : []));
    if (pairs.length < bench.hz.length || pairs.length === 0) return;
    const left = sourceLeft(pairs);
    if (left) {
      bench.says =
        left === 'same'
          ? 'With the source on and off there is the same noise: was it left as it was, or is it not connected?'
          : 'There is more noise with the source off than on: on and off seem swapped.';
      // What cannot be right is not taken for the receiver’s own noise.
      if (where === 'own') return;
    }
    if (where === 'own') {
      const middle = bench.hz.length >> 1;
      const source = this.source(bench)!;
      const { factor } = byY(
        { on: pairs[middle].on.mw, off: pairs[middle].off.mw },
        excessAt(source.points, bench.hz[middle]).enr,
        bench.roomK,
      );
      bench.own = {
        atMs: Date.now(),
        basis: this.basis(unit, bench),
        hz: bench.hz,
        powers: pairs,
        middle: { hz: bench.hz[middle], figureDb: 10 * Math.log10(factor) },
      };
      // What was measured with the former one stays as it was kept; with this one it is measured anew.
      for (const s of ['through off', 'through on'] as const) bench.powers[s].fill(null);
      log(this.app, 'radio', `The receiver’s own noise was taken at ${bench.hz.length} points.`, { by });
    } else if (bench.own) this.keepResult(unit, bench, by);
  }

  /** What was measured is kept, by the name of its device. */
  private keepResult(unit: string, bench: NoiseTable, by: string): void {
    const result: NoiseResult = {
      id: randomUUID(),
      device: bench.device || 'Device without a name',
      atMs: Date.now(),
      settings: bench.settings,
      source: this.source(bench)!,
      roomK: bench.roomK,
      ownAtMs: bench.own!.atMs,
      points: this.points(bench),
      remark: bench.says,
    };
    putKept(this.app.db, {
      id: result.id,
      jobId: jobOf(this.app).id,
      kind: 'noise figure',
      name: result.device,
      at: result.atMs,
      body: result as unknown as Record<string, unknown>,
    });
    bench.kept = result.id;
    log(
      this.app,
      'radio',
      `Noise figure and gain of ${result.device} were measured at ${result.points.length} points.`,
      { by },
    );
  }

  /** Ends what is measured: what was measured so far stays. */
  stop(unit: string): void {
    if (this.benches.get(unit)?.running) this.gatherings.stop(unit);
  }

  results = (): NoiseResult[] => listNoise(this.app.db, jobOf(this.app).id);
  /** @throws `not_found` */
  drop(id: string, by: string): void {
    const row = getKept(this.app.db, id);
    if (row.kind !== 'noise figure') throw notFound('noise figure', id);
    deleteKept(this.app.db, id);
    log(this.app, 'radio', `The noise figure of ${row.name} was taken away.`, { by });
    this.tell(true);
  }
}
