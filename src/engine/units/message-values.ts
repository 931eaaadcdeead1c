import { rateFromHz, sampleTimeNs, samplesBefore, type Rate } from '$core/time/rate';
import type { Heard } from '$contract/unit';
import type { AcquireRequest, AcquiredGroup, OpenUnit, RawBlock } from './driver';
import type { Link } from './link';

/** Rates at which values that arrive by message are held, S/s. */
export const HELD_RATES = [1, 2, 5, 10, 20, 50, 100, 200];

interface Held {
  value: number;
  atNs: bigint;
  /** Came since the last poll, in their order. */
  fresh: { value: number; atNs: bigint }[];
}

const FOREVER_NS = 1n << 80n;

/** Values that arrive whenever they do, handed on at steady rates: each sample is the last value that had arrived by its time, or
 *  missing once that is older than the channel's timeout. */
export class MessageValues {
  private readonly held = new Map<string, Held>();
  private groups: {
    rate: Rate;
    startNs: bigint;
    delivered: number;
    requests: AcquireRequest[];
    buffers: Float32Array[];
  }[] = [];

  arrive(terminal: string, value: number, atNs: bigint): void {
    let held = this.held.get(terminal);
    if (!held) this.held.set(terminal, (held = { value: NaN, atNs: 0n, fresh: [] }));
    held.fresh.push({ value, atNs });
    // Nobody reads it: only the newest counts.
    if (held.fresh.length > 100_000) held.fresh.splice(0, 50_000);
  }

  /** The newest value. */
  last(terminal: string): { value: number; atNs: bigint } | undefined {
    const held = this.held.get(terminal);
    return held && (held.fresh[held.fresh.length - 1] ?? (held.atNs ? held : undefined));
  }

  start(requests: AcquireRequest[], startNs: bigint): AcquiredGroup[] {
    const byRate = new Map<number, AcquireRequest[]>();
    for (const r of requests) {
      const rate = HELD_RATES.find((hz) => hz >= r.rateHz * (1 - 1e-9)) ?? HELD_RATES[HELD_RATES.length - 1];
      byRate.set(rate, [...(byRate.get(rate) ?? []), r]);
    }
    this.groups = [...byRate].map(([hz, list]) => ({
      rate: rateFromHz(hz),
      startNs,
      delivered: 0,
      requests: list,
      buffers: list.map(() => new Float32Array(64)),
    }));
    return this.groups.map(({ rate, requests: list }) => ({ rate, startNs, requests: list }));
  }

  poll(nowNs: bigint): RawBlock[] {
    const blocks = this.groups.map((g, group): RawBlock => {
      const count = Math.max(0, samplesBefore(g.rate, nowNs - g.startNs) - g.delivered);
      if (g.buffers.length && g.buffers[0].length < count)
        g.buffers = g.buffers.map(() => new Float32Array(count * 2));
      const trouble = g.requests.map((request, c) => {
        const held = this.held.get(request.terminal);
        // What is sent stays as it is until it is sent anew: only values that arrive grow old.
        const { timeout } = request.settings;
        const timeoutNs = typeof timeout === 'number' ? BigInt(Math.round(timeout * 1e9)) : FOREVER_NS;
        let next = 0;
        let value = held?.value ?? NaN;
        let atNs = held?.atNs ?? 0n;
        for (let i = 0; i < count; i++) {
          const timeNs = sampleTimeNs(g.startNs, g.rate, g.delivered + i);
          while (held && next < held.fresh.length && held.fresh[next].atNs <= timeNs)
            ({ value, atNs } = held.fresh[next++]);
          g.buffers[c][i] = timeNs - atNs > timeoutNs ? NaN : value;
        }
        return nowNs - (held?.fresh[held.fresh.length - 1]?.atNs ?? atNs) > timeoutNs
          ? ('silent' as const)
          : ('none' as const);
      });
      const firstIndex = g.delivered;
      g.delivered += count;
      return { group, firstIndex, count, columns: g.buffers.map((b) => b.subarray(0, count)), trouble };
    });
    // What came before now has been seen by every group; the rest belongs to later samples.
    for (const held of this.held.values()) {
      const seen = held.fresh.findIndex((f) => f.atNs > nowNs);
      const past = held.fresh.splice(0, seen < 0 ? held.fresh.length : seen);
      const newest = past[past.length - 1];
      if (newest) ({ value: held.value, atNs: held.atNs } = newest);
    }
    return blocks.filter((b) => b.count > 0);
  }
}

const KEPT = 200;

/** The last things heard, for the monitor of a unit's page. */
export class Hearing {
  private list: Heard[] = [];
  good = 0;
  bad = 0;

  add(heard: Heard): void {
    if (heard.ok) this.good++;
    else this.bad++;
    this.list.push({ ...heard, text: heard.text.slice(0, 400) });
    if (this.list.length > KEPT * 2) this.list = this.list.slice(-KEPT);
  }
  get last(): Heard[] {
    return this.list.slice(-KEPT);
  }
}

/** What every unit has in common whose values arrive by message: it measures while its link is up, and shows what came last.
 *  @param waiting said while nothing has come for a terminal */
export const heldInputs = (
  link: Link,
  values: MessageValues,
  waiting: string,
): Pick<OpenUnit, 'start' | 'poll' | 'probe'> => ({
  start(requests, nowNs) {
    link.check();
    return values.start(requests, nowNs);
  },
  poll(nowNs) {
    link.check();
    return values.poll(nowNs);
  },
  probe(terminal) {
    const last = values.last(terminal);
    return {
      unit: '1',
      mean: last?.value ?? NaN,
      noise: 0,
      samples: last ? 1 : 0,
      trouble: last ? 'none' : 'silent',
      remark: last ? null : waiting,
    };
  },
});
