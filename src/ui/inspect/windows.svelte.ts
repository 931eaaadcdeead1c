import { unpacked } from '$contract/packed';
import type { TakeView } from '$contract/take';
import { faultText, send, type FaultText } from '../api';

/** Extremes of one channel of a take, by the take's own time. */
export interface Drawn {
  x: Float64Array;
  min: Float32Array;
  max: Float32Array;
}
interface Head {
  signal: number;
  fromS: number;
  stepS: number;
  buckets: number;
}
export interface Wanted {
  take: TakeView;
  signals: number[];
}

/** What is fetched of some takes for a stretch of time: somewhat more than is looked at, so that small moves need nothing new. */
export class Windows {
  /** By take and signal, “id signal”. */
  drawn = $state.raw(new Map<string, Drawn>());
  fault = $state<FaultText | null>(null);
  busy = $state(false);
  /** What the fetched stretch is: s of the common axis, and its buckets. */
  private held: { from: number; to: number; perS: number; of: string } | null = null;
  private asked: AbortController | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** Makes sure that what is looked at is there. @param zero instant of each take at 0 of the axis @param px width of the plot */
  look(
    wanted: readonly Wanted[],
    zero: (id: string) => number,
    [from, to]: [number, number],
    px: number,
    recorded: boolean,
  ): void {
    const of = JSON.stringify([
      wanted.map((w) => [w.take.head.id, w.signals, zero(w.take.head.id)]),
      recorded,
    ]);
    const perS = px / (to - from);
    const { held } = this;
    const there = held && held.of === of && held.from <= from && held.to >= to && held.perS >= perS * 0.75 && held.perS <= perS * 3; // prettier-ignore
    clearTimeout(this.timer);
    if (there) return;
    // While a drag goes on, the server is not asked at each of its steps.
    this.timer = setTimeout(
      () => void this.fetch(wanted, zero, [from, to], px, recorded, of),
      held && held.of === of ? 40 : 0,
    );
  }

  private async fetch(
    wanted: readonly Wanted[],
    zero: (id: string) => number,
    [from, to]: [number, number],
    px: number,
    recorded: boolean,
    of: string,
  ): Promise<void> {
    // prettier-ignore
    this.asked?.abort();
    const abort = (this.asked = new AbortController());
    const beyond = (to - from) / 2;
    const [first, last] = [from - beyond, to + beyond];
    const width = Math.max(50, Math.min(4000, Math.round(px * 2)));
    const asks = wanted
      .filter((w) => w.signals.length)
      .map(({ take, signals }) => {
        const at = zero(take.head.id);
        return { take: take.head.id, signals, from: first + at, to: last + at };
      });
    if (asks.length === 0) return void (this.drawn = new Map());
    this.busy = true;
    try {
      const response = await send(
        'POST /api/windows',
        { body: { asks, width, recorded } },
        { signal: abort.signal },
      );
      const { head, next } = unpacked<Head[][]>(await response.arrayBuffer());
      const drawn = new Map<string, Drawn>();
      head.forEach((signals, k) => {
        for (const { signal, fromS, stepS, buckets } of signals)
          drawn.set(`${asks[k].take} ${signal}`, {
            x: Float64Array.from({ length: buckets }, (_, i) => fromS + (i + 0.5) * stepS),
            min: next(buckets),
            max: next(buckets),
          });
      });
      this.drawn = drawn;
      this.held = { from: first, to: last, perS: width / (last - first), of };
      this.fault = null;
    } catch (error) {
      if (!abort.signal.aborted) this.fault = faultText(error);
    } finally {
      if (this.asked === abort) this.busy = false;
    }
  }

  /** What was fetched may be old: it is fetched anew when it is looked at. */
  forget = () => (this.held = null);

  stop(): void {
    clearTimeout(this.timer);
    this.asked?.abort();
  }
}
