import type { CalibrationFit } from '$core/fit/forms';
import { showsCurvature } from '$core/fit/forms';
import {
  fitAxis,
  fitPoints,
  plannedPoints,
  usualBudget,
  usualRun,
  type BudgetInputs,
  type PlannedPoint,
  type PointsRun,
  type Steadiness,
} from '$contract/calibration';
import { commonOf, type CalibrationPoint, type Channel } from '$contract/channel';
import { call, faultText, type FaultText } from '../api';

type Look = Steadiness | { channelId: string; fault: FaultText };
type Read = Pick<CalibrationPoint, 'raw' | 'noise' | 'samples'>;

/** A point as it was measured: one reading for each channel of the run. */
export interface TakenPoint extends PlannedPoint {
  readings: Record<string, Read>;
  dropped: string | null;
  times: number;
}
interface Draft {
  run: PointsRun;
  budget: BudgetInputs;
  taken: (TakenPoint | null)[];
}

const LOOK_MS = 200;
const SAVE_MS = 400;

/** A calibration by points as it goes on: looks at the channels, takes a point once all are steady, keeps what it has on the server. */
export class PointsRunState {
  run = $state<PointsRun>() as PointsRun;
  budget = $state<BudgetInputs>() as BudgetInputs;
  taken = $state<(TakenPoint | null)[]>([]);
  measuring = $state<number | null>(null);
  /** Row that the keys act on. */
  selected = $state(0);
  looks = $state.raw<Look[]>([]);
  fault = $state<FaultText | null>(null);
  accepted = $state(false);
  private began = 0;
  private saving: ReturnType<typeof setTimeout> | undefined;

  /** @param channels those that are calibrated together, the one of the page first @param draft what an earlier visit left */
  constructor(
    readonly channels: Channel[],
    draft: unknown,
  ) {
    const [main] = channels;
    const kept = draft as Draft | null;
    const fits = kept?.run?.unit === commonOf(main).unit && Array.isArray(kept.taken);
    this.run = { ...usualRun(main), ...(fits ? kept.run : {}) };
    this.budget = { ...usualBudget(commonOf(main).unit), ...(fits ? kept.budget : {}) };
    this.taken = this.planned.map((_, i) => (fits ? (kept.taken[i] ?? null) : null));
  }

  get planned(): PlannedPoint[] {
    return plannedPoints(this.run);
  }
  /** The next point that is missing, or -1. */
  get next(): number {
    return this.taken.findIndex((p) => p === null);
  }
  get main(): Channel {
    return this.channels[0];
  }
  get look(): Look | undefined {
    return this.looks.find((l) => l.channelId === this.main.id);
  }
  get says(): string {
    const look = this.look;
    return !look ? 'no reading' : 'fault' in look ? look.fault.what : look.says;
  }

  /** Points of one channel, in the order of the run; those not measured yet are left out. */
  pointsOf(channel: Channel): CalibrationPoint[] {
    return this.taken.flatMap((p) =>
      p?.readings[channel.id]
        ? [
            {
              target: p.target,
              going: p.going,
              dropped: p.dropped,
              times: p.times,
              ...p.readings[channel.id],
            },
          ]
        : [],
    );
  }

  /** The curve through a channel's points; null below two, a fault where they do not make one. */
  fitOf(channel: Channel): { fit: CalibrationFit | null; fault: FaultText | null } {
    const points = this.pointsOf(channel);
    if (points.filter((p) => !p.dropped).length < 2) return { fit: null, fault: null };
    try {
      return { fit: fitPoints(channel, points, this.run.form), fault: null };
    } catch (error) {
      return { fit: null, fault: faultText(error) };
    }
  }

  /** By how much each planned point is off, reading less reference; NaN where it is not measured or left out. */
  distances(channel: Channel, fit: CalibrationFit | null): number[] {
    let k = 0;
    return this.taken.map((p) => {
      if (!p?.readings[channel.id] || p.dropped !== null) return NaN;
      return fit ? -fit.residuals[k++] : NaN;
    });
  }

  /** Whether a straight line leaves a bend. */
  get curved(): boolean {
    const points = this.pointsOf(this.main).filter((p) => !p.dropped);
    return (
      this.run.form.startsWith('straight') &&
      points.length >= 5 &&
      showsCurvature({ x: points.map((p) => fitAxis(this.main, p.raw)), y: points.map((p) => p.target) })
    );
  }

  begin(i: number): void {
    if (i < 0 || i >= this.taken.length) return;
    this.accepted = false;
    this.fault = null;
    this.measuring = this.selected = i;
    this.began = performance.now();
  }
  stop = () => (this.measuring = null);

  drop(i: number, reason: string | null): void {
    const point = this.taken[i];
    if (!point) return;
    this.taken[i] = { ...point, dropped: reason };
    this.accepted = false;
    this.save();
  }

  clear(): void {
    this.taken = this.planned.map(() => null);
    this.measuring = null;
    this.selected = 0;
    this.save();
  }

  change = (key: string, value: unknown): Promise<void> => {
    const before = this.taken;
    this.run = { ...this.run, [key]: value };
    // A value that is still asked for keeps its point.
    this.taken = this.planned.map(
      (p) => before.find((b) => b?.target === p.target && b.going === p.going) ?? null,
    );
    this.measuring = null;
    this.save();
    return Promise.resolve();
  };
  changeBudget = (key: string, value: unknown): Promise<void> => {
    this.budget = { ...this.budget, [key]: value };
    this.save();
    return Promise.resolve();
  };

  private save(): void {
    clearTimeout(this.saving);
    this.saving = setTimeout(() => {
      const draft = $state.snapshot({ run: this.run, budget: this.budget, taken: this.taken });
      call('POST /api/calibrate/draft', { body: { channelId: this.main.id, draft } }).catch(
        (error) => (this.fault = faultText(error)),
      );
    }, SAVE_MS);
  }

  /** Looks five times a second. @returns how to stop */
  watch(): () => void {
    const timer = setInterval(() => void this.once(), LOOK_MS);
    return () => clearInterval(timer);
  }

  private async once(): Promise<void> {
    if (document.hidden) return;
    const { against, tolerance, hold } = this.run;
    const ids = [...this.channels.map((c) => c.id), ...(against ? [against] : [])];
    try {
      this.looks = await call('GET /api/calibrate/steady', { query: { channels: ids, tolerance, hold } });
    } catch (error) {
      this.looks = [];
      if (this.measuring !== null) this.giveUp(faultText(error));
      return;
    }
    if (this.measuring !== null) this.judge(this.measuring);
  }

  private giveUp(fault: FaultText): void {
    this.measuring = null;
    this.fault = fault;
  }

  private judge(i: number): void {
    const waited = (performance.now() - this.began) / 1000;
    for (const look of this.looks) if ('fault' in look && waited > 1) return this.giveUp(look.fault);
    const steady = this.looks as Steadiness[];
    if (steady.some((l) => 'fault' in l)) return;
    const { target, going } = this.planned[i];
    if (waited < this.run.hold || !steady.every((l) => l.steady)) {
      if (waited > this.run.within) {
        const worst = steady.find((l) => !l.steady)!;
        this.giveUp({
          what: `${target} ${this.run.unit} has not settled within ${this.run.within} s: ${worst.says}.`,
          next: 'Hold it still, allow more drift, or wait longer. What was measured is kept.',
        });
      }
      return;
    }
    const reference = this.run.against ? steady.find((l) => l.channelId === this.run.against)! : null;
    this.taken[i] = {
      target: reference ? reference.value : target,
      going,
      dropped: null,
      times: (this.taken[i]?.times ?? 0) + 1,
      readings: Object.fromEntries(
        this.channels.map(({ id }) => {
          const { raw, noise, samples } = steady.find((l) => l.channelId === id)!;
          return [id, { raw, noise, samples }];
        }),
      ),
    };
    this.measuring = null;
    this.selected = this.next >= 0 ? this.next : i;
    this.save();
  }

  /** Accepts all channels of the run as one change. */
  async accept(): Promise<void> {
    try {
      await call('POST /api/calibrate/points', {
        body: {
          runs: this.channels.map((channel) => ({
            channelId: channel.id,
            points: this.pointsOf(channel),
            form: this.run.form,
            budget: this.budget,
            against: this.run.against,
          })),
        },
      });
      this.fault = null;
      this.accepted = true;
    } catch (error) {
      this.fault = faultText(error);
    }
  }
}
