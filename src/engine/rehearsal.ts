import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { badInput } from '$core/errors';
import { rateFromHz, samplesBefore, type Rate } from '$core/time/rate';
import { channelKind, roleOf, type Channel } from '$contract/channel';
import { BLOCK_MS, type NumberedRule } from '$contract/engine';
import type { Plan } from '$contract/plan';
import type { Rehearsal, RehearsalEvent } from '$contract/rehearsal';
import type { TakeHead } from '$contract/take';
import { TakeReader } from '$store/take/reader';
import type { StoredSignal } from '$store/take/signals';
import { Acquisition } from './acquisition';
import { newSlot } from './slots';
import { junctionOf } from './signals';
import { described, type AcquireRequest, type OpenUnit } from './units/driver';

const STEP_NS = BigInt(BLOCK_MS) * 1_000_000n;
/** More of a take is not rehearsed in one go. */
const LONGEST_S = 4 * 3600;
const MOST_EVENTS = 2000;

export interface RehearsalTask {
  path: string;
  channels: Channel[];
  rules: NumberedRule[];
  plan: Plan;
  head: TakeHead;
}

/** A unit that delivers what a take holds, in the take's own time; its outputs only remember what they were set to. */
class RecordedUnit implements OpenUnit {
  private readonly outputs = new Map<string, number>();
  private groups: {
    rate: Rate;
    startNs: bigint;
    delivered: number;
    read: (first: number, n: number) => Float32Array[];
    columns: number;
  }[] = [];
  setControl = () => undefined;

  constructor(
    private readonly serial: string,
    private readonly source: (request: AcquireRequest) => StoredSignal | null,
    private readonly reader: TakeReader,
  ) {}

  describe = () =>
    described({ serial: this.serial, kind: 'take', name: this.serial }, { standIn: true, modules: [] });

  start(requests: AcquireRequest[], nowNs: bigint) {
    const grouped = new Map<string, { request: AcquireRequest; signal: StoredSignal | null }[]>();
    for (const request of requests) {
      const signal = this.source(request);
      const key = signal ? `take ${signal.groupId}` : `driven ${request.rateHz}`;
      grouped.set(key, [...(grouped.get(key) ?? []), { request, signal }]);
    }
    const made = [...grouped.values()].map((list) => {
      const { signal, request } = list[0];
      const rate = signal ? signal.rate : rateFromHz(request.rateHz);
      const startNs = nowNs + (signal ? BigInt(signal.startNs) : 0n);
      const read = (first: number, n: number) =>
        list.map((one) =>
          one.signal
            ? this.reader.raw(one.signal.id, first, n)
            : new Float32Array(n).fill(this.outputs.get(one.request.terminal) ?? 0),
        );
      return {
        rate,
        startNs,
        delivered: 0,
        read,
        columns: list.length,
        requests: list.map((l) => l.request),
      };
    });
    this.groups = made;
    return made.map(({ rate, startNs, requests: own }) => ({ rate, startNs, requests: own }));
  }

  poll(nowNs: bigint) {
    return this.groups.flatMap((g, group) => {
      const end = samplesBefore(g.rate, nowNs - g.startNs);
      const count = end - g.delivered;
      if (count <= 0) return [];
      const firstIndex = g.delivered;
      g.delivered = end;
      return [
        {
          group,
          firstIndex,
          count,
          columns: g.read(firstIndex, count),
          trouble: new Array(g.columns).fill('none') as 'none'[],
        },
      ];
    });
  }

  setOutput = (terminal: string, value: number) => void this.outputs.set(terminal, value);
  probe(): never {
    throw badInput('terminal', 'recorded', 'A rehearsal has no hardware.');
  }
  close = () => undefined;
}

/** Lets a plan and rules run over a take as if it were happening now, as fast as the computer can.
 *  @param progress told the share that is done @throws `bad_input` when the take holds none of the channels */
export function rehearse(task: RehearsalTask, progress: (share: number) => void): Rehearsal {
  const begun = performance.now();
  const reader = new TakeReader(task.path);
  const folder = mkdtempSync(join(tmpdir(), 'farrier-rehearsal-'));
  const events: RehearsalEvent[] = [];
  const takes: { name: string; fromS: number; toS: number | null }[] = [];
  try {
    const byChannel = new Map(reader.signals.map((s) => [s.channelId, s]));
    const there = task.channels.filter(
      (c) => roleOf(c) !== 'measured' || (byChannel.get(c.id)?.length ?? 0) > 0,
    );
    const missing = task.channels.filter((c) => !there.includes(c)).map((c) => c.name);
    if (!there.some((c) => roleOf(c) === 'measured'))
      throw badInput(
        'take',
        reader.head.name,
        'It holds none of the channels of the job: choose another one.',
      );
    const sourceOf = (serial: string) => (request: AcquireRequest) => {
      if (request.channelId !== null) {
        const channel = there.find((c) => c.id === request.channelId)!;
        return roleOf(channel) === 'driven' ? null : byChannel.get(channel.id)!;
      }
      const hot = there.find(
        (c) =>
          c.wire?.unit === serial &&
          channelKind(c.kind).needsJunction &&
          junctionOf(c.wire.terminal) === request.terminal,
      );
      const junction = byChannel.get(hot?.id ?? '')?.junction ?? null;
      return junction === null ? null : reader.signal(junction);
    };
    const serials = [...new Set(there.flatMap((c) => c.wire?.unit ?? []))];
    const slots = serials.map((serial) =>
      newSlot(new RecordedUnit(serial, sourceOf(serial), reader), serial, serial),
    );
    const zeroNs = BigInt(reader.head.startNs);
    const durationS = Math.min(reader.durationS, LONGEST_S);
    const inTake = (atNs: bigint) => Number(atNs - zeroNs) / 1e9;
    const acquisition = new Acquisition(slots, {
      frame: () => undefined,
      waves: () => undefined,
      changed: () => undefined,
      call: (address) =>
        events.push({ atS: inTake(nowNs), kind: 'rule', says: `${address} would be called` }),
      note: (kind, says, _take, atNs, by) => {
        if (events.length < MOST_EVENTS && kind !== 'unit')
          events.push({ atS: inTake(atNs), kind, says, by });
      },
      take: (head, hash) => {
        if (hash === null) takes.push({ name: head.name, fromS: inTake(BigInt(head.startNs)), toS: null });
        else Object.assign(takes.at(-1)!, { toS: inTake(BigInt(head.startNs)) + (head.lengthNs ?? 0) / 1e9 });
      },
    });
    let nowNs = zeroNs;
    acquisition.configure({ units: [], channels: there, rules: task.rules }, nowNs);
    acquisition.arm({ head: task.head, plan: task.plan, path: join(folder, 'a.take'), by: 'rehearsal' });
    if (task.plan.start === 'by hand') acquisition.start();
    const steps = Math.ceil((durationS * 1000) / BLOCK_MS);
    for (let i = 1; i <= steps; i++) {
      nowNs = zeroNs + BigInt(i) * STEP_NS;
      acquisition.step(nowNs);
      if (i % 200 === 0) progress(i / steps);
    }
    const { state, rules } = acquisition.status;
    void acquisition.shutDown(); // recorded units have no connections to wait for
    return {
      takeName: reader.head.name,
      durationS,
      events: events.sort((a, b) => a.atS - b.atS),
      takes: takes.map((t) => ({
        ...t,
        toS: t.toS ?? durationS,
        open: state === 'Recording' && t === takes.at(-1),
      })),
      fired: Object.fromEntries(rules.map((r) => [r.id, r.fired])),
      missing,
      tookS: (performance.now() - begun) / 1000,
    };
  } finally {
    reader.close();
    rmSync(folder, { recursive: true, force: true });
  }
}
