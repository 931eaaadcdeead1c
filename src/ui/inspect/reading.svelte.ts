import type { BetweenRow } from '$contract/api/inspect';
import { call, faultText, type FaultText } from '../api';
import type { Inspection } from './inspection.svelte';

/** Values of every channel of every take at the cursors, as they are fetched. */
export class ReadingsAt {
  /** By take, cursor and signal: “id cursor signal”. */
  values = $state.raw(new Map<string, number | null>());
  uncertain = $state.raw(new Map<string, number | null>());
  between = $state.raw(new Map<string, BetweenRow>());
  fault = $state<FaultText | null>(null);
  private timer: ReturnType<typeof setTimeout> | undefined;
  private slower: ReturnType<typeof setTimeout> | undefined;
  private asked = 0;

  /** Follows the cursors. @param signals of each take that are read */
  follow(
    insp: Inspection,
    signals: (take: Inspection['takes'][number]) => number[],
    plusMinus: boolean,
  ): void {
    const asks = insp.takes.map((t) => ({
      take: t.head.id,
      signals: signals(t),
      zero: insp.zero(t.head.id),
    }));
    const [a, b] = insp.cursors;
    const { recorded, chosen } = insp;
    clearTimeout(this.timer);
    clearTimeout(this.slower);
    const asked = ++this.asked;
    if (a === null && b === null) return void (this.values = new Map());
    this.timer = setTimeout(async () => {
      try {
        const s = (zero: number) => [a, b].map((c) => (c === null ? -1e11 : c + zero));
        const got = await call('POST /api/readings', {
          body: { asks: asks.map((k) => ({ take: k.take, signals: k.signals, s: s(k.zero) })), recorded },
        });
        if (asked !== this.asked) return;
        this.values = byKey(asks, got);
        this.fault = null;
      } catch (error) {
        if (asked === this.asked) this.fault = faultText(error);
      }
    }, 15);
    this.slower = setTimeout(async () => {
      try {
        if (plusMinus) {
          const at = insp.cursors[chosen];
          const got = at === null ? [] : await call('POST /api/readings', { body: { asks: asks.map((k) => ({ take: k.take, signals: k.signals, s: [at + k.zero] })), uncertainty: true, recorded } }); // prettier-ignore
          if (asked === this.asked) this.uncertain = byKey(asks, got);
        }
        if (a === null || b === null) return void (this.between = new Map());
        const rows = await call('POST /api/between', {
          body: {
            asks: asks.map((k) => ({
              take: k.take,
              signals: k.signals,
              from: Math.min(a, b) + k.zero,
              to: Math.max(a, b) + k.zero,
            })),
            recorded,
          },
        });
        if (asked === this.asked)
          this.between = new Map(
            asks.flatMap((k, i) => rows[i].map((row) => [`${k.take} ${row.signal}`, row] as const)),
          );
      } catch {
        // the next move of a cursor asks again
      }
    }, 140);
  }

  at = (take: string, cursor: 0 | 1, signal: number): number | null =>
    this.values.get(`${take} ${cursor} ${signal}`) ?? null;
  plusMinus = (take: string, signal: number): number | null =>
    this.uncertain.get(`${take} 0 ${signal}`) ?? null;

  stop(): void {
    clearTimeout(this.timer);
    clearTimeout(this.slower);
  }
}

function byKey(
  asks: readonly { take: string; signals: number[] }[],
  got: readonly (number | null)[][][],
): Map<string, number | null> {
  const out = new Map<string, number | null>();
  asks.forEach(({ take, signals }, i) =>
    got[i]?.forEach((row, cursor) =>
      row.forEach((value, k) => out.set(`${take} ${cursor} ${signals[k]}`, value)),
    ),
  );
  return out;
}
