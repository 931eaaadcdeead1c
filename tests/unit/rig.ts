import { randomUUID } from 'node:crypto';
import type { Channel } from '$contract/channel';
import { channelKind } from '$contract/channel';
import { EMPTY_PLAN, type Plan } from '$contract/plan';
import type { EngineSetup, LiveFrame, NumberedRule } from '$contract/engine';
import type { TakeHead } from '$contract/take';
import { Acquisition } from '$engine/acquisition';
import { newSlot } from '$engine/slots';
import type { OpenUnit } from '$engine/units/driver';

export const UNIT = 'T-1';
export const START_NS = 1_790_000_000_000_000_000n;

/** A channel with its kind's usual settings and some of its own. */
export function channel(
  name: string,
  kind: string,
  terminal: string | null,
  settings: Record<string, unknown> = {},
): Channel {
  return {
    id: name.toLowerCase().replaceAll(' ', '-'),
    name,
    group: '',
    kind,
    wire: terminal === null ? null : { unit: UNIT, terminal },
    sensorSerial: '',
    colour: 0,
    settings: { ...channelKind(kind).defaults, ...settings },
    scale: null,
    calibration: null,
    tare: 0,
  };
}

/** A pipeline on one unit, moved on by hand, with all it says kept. */
export function bench(unit: OpenUnit, channels: Channel[], rules: NumberedRule[] = []) {
  const notes: { kind: string; says: string; atS?: number }[] = [];
  const frames: LiveFrame[] = [];
  const heads: TakeHead[] = [];
  const slot = newSlot(unit, UNIT, 'test unit');
  const acquisition = new Acquisition([slot], {
    frame: (f) => frames.push(f),
    note: (kind, says, _take, atNs) => notes.push({ kind, says, atS: Number(atNs - START_NS) / 1e9 }),
    take: (h) => heads.push(h),
    waves: () => undefined,
    call: (address) => notes.push({ kind: 'call', says: address }),
    changed: () => undefined,
  });
  let nowNs = START_NS;
  acquisition.configure({ units: [], channels, rules }, nowNs);
  return {
    acquisition,
    /** Takes over another set-up now. */
    configure: (setup: EngineSetup) => acquisition.configure(setup, nowNs),
    notes,
    frames,
    heads,
    /** Moves on by seconds, in the engine's steps or others. */
    run(seconds: number, stepMs = 50) {
      const end = nowNs + BigInt(Math.round(seconds * 1e9));
      while (nowNs < end) acquisition.step((nowNs += BigInt(stepMs) * 1_000_000n));
    },
    arm(plan: Partial<Plan>, path: string) {
      acquisition.arm({ head: head(plan), plan: { ...EMPTY_PLAN, ...plan }, path, by: 'test' });
    },
    last: (name: string) => frames.at(-1)!.last[channels.findIndex((c) => c.name === name)],
  };
}

export function head(plan: Partial<Plan>): TakeHead {
  return {
    id: randomUUID(),
    jobId: 'job',
    job: 'Job',
    number: 1,
    name: 'Take-1',
    state: 'recording',
    startNs: '0',
    lengthNs: null,
    facts: { Operator: 'bench' },
    plan: { ...EMPTY_PLAN, ...plan },
    planText: '',
    planName: '',
    folder: '',
    part: null,
    coreVersion: 1,
  };
}
