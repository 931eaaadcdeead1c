import { statfsSync } from 'node:fs';
import {
  conditionText,
  channelsOf as conditionChannels,
  neverOrAlways,
  type Condition,
} from '$core/condition/condition';
import { commonOf, roleOf, type Channel } from '$contract/channel';
import type { PreflightCheck } from '$contract/preflight';
import { startAtFault, type Plan } from '$contract/plan';
import { ruleChannels, ruleConflicts, ruleText } from '$contract/rule';
import { getLayout, listRules, putLayout } from '$store/entities';
import { listTakes } from '$store/takes';
import { jobOf, type App } from './app';
import { calibrationsDue } from './calibrate/overview';
import { channelsOf, history } from './setup/change';
import { namesOf } from './setup/patch';

const BYTES_A_SAMPLE = 4.54;
const LEAST_FREE = 300e6;
const NOISE_S = 5;
const NOISE_TIMES = 3;
/** A range is nearly used up from here on. */
const NEARLY = 0.95;
const CLOCK_MS = 2000;

type Noise = Record<string, number>;
const noisePage = (planId: string) => `noise:${planId}`;

/** All that is wrong or doubtful before a take, each with its way out, worst first. */
export function preflight(app: App, { id, plan }: { id: string; plan: Plan }): PreflightCheck[] {
  const channels = channelsOf(app);
  const chosen = channels.filter((c) => plan.channels.length === 0 || plan.channels.includes(c.id));
  const measured = chosen.filter((c) => roleOf(c) !== 'driven');
  const checks = [
    ...inputs(app, measured),
    ...noise(app, id, measured),
    ...proofs(app, plan),
    ...conditions(app, plan, channels),
    ...outputs(app, channels),
    ...rules(app, channels),
    ...disk(app, plan, measured),
    ...clock(app),
    ...alarms(app),
    ...changes(app),
  ];
  const rank = { wrong: 0, doubtful: 1, 'good to know': 2 };
  return checks.sort((a, b) => rank[a.how] - rank[b.how]);
}

const toChannel = (c: Channel) => ({ label: 'To the channel', href: `/channels#${c.id}` });

function inputs(app: App, channels: Channel[]): PreflightCheck[] {
  return channels.flatMap((c): PreflightCheck[] => {
    const state = app.live.state(c.id);
    const base = { where: c.name, way: toChannel(c) };
    switch (state) {
      case 'open':
      case 'short':
        return [
          {
            ...base,
            how: 'wrong',
            what: `reads ${state}`,
            next: 'Check its wire, or leave it out of the plan.',
          },
        ];
      case 'lost':
      case 'not measured':
        return [
          {
            ...base,
            how: 'wrong',
            what: 'is not measured now',
            next: 'See on the rig why, or leave it out of the plan.',
            way: { label: 'To the rig', href: '/rig' },
          },
        ];
      case 'silent':
        return [
          {
            ...base,
            how: 'doubtful',
            what: 'is silent: nothing arrives',
            next: 'See whether its sender runs.',
          },
        ];
      case 'over range':
        return [
          {
            ...base,
            how: 'wrong',
            what: 'is over its input’s range',
            next: 'Choose a larger range, or take the load off.',
          },
        ];
    }
    const { range, unit } = commonOf(c);
    const value = app.live.value(c.id);
    const used = (value - range.min) / (range.max - range.min);
    if (unit !== 'yes/no' && (used > NEARLY || used < 1 - NEARLY) && range.min < 0)
      return [
        {
          ...base,
          how: 'doubtful',
          what: 'stands near the end of its range',
          next: 'Zero it, or give it a larger range.',
        },
      ];
    return [];
  });
}

/** Noise of each channel now, in its raw unit. */
function noiseNow(app: App, channels: Channel[]): Noise {
  return Object.fromEntries(
    channels.flatMap((c) => {
      const means = app.live.rawMeans(c.id, NOISE_S).filter((v) => v === v);
      if (means.length < 20) return [];
      const mean = means.reduce((a, b) => a + b, 0) / means.length;
      const spread = Math.sqrt(means.reduce((a, b) => a + (b - mean) ** 2, 0) / (means.length - 1));
      return [[c.id, spread]];
    }),
  );
}
/** Keeps the noise of this arming, to compare the next one with. */
export function keepNoise(app: App, planId: string, channels: Channel[]): void {
  const known = (getLayout(app.db, jobOf(app).id, noisePage(planId)) ?? {}) as Noise;
  putLayout(app.db, jobOf(app).id, noisePage(planId), { ...known, ...noiseNow(app, channels) });
}

function noise(app: App, planId: string, channels: Channel[]): PreflightCheck[] {
  const then = (getLayout(app.db, jobOf(app).id, noisePage(planId)) ?? {}) as Noise;
  const now = noiseNow(app, channels);
  return channels.flatMap((c): PreflightCheck[] => {
    const times = now[c.id] / then[c.id];
    if (!(then[c.id] > 0) || !(times > NOISE_TIMES)) return [];
    return [
      {
        how: 'doubtful',
        where: c.name,
        what: `is ${times.toFixed(1)} times as restless as at the last arming`,
        next: 'See whether the rig moves, or a shield is off.',
        way: toChannel(c),
      },
    ];
  });
}

const proofs = (app: App, plan: Plan): PreflightCheck[] =>
  calibrationsDue(app, plan).map((d) => ({
    how: 'doubtful',
    where: d.name,
    what: d.verdict,
    why: d.why,
    next: d.next,
    way: { label: 'To its calibration', href: `/calibrate/${d.channelId}` },
  }));

function conditions(app: App, plan: Plan, channels: Channel[]): PreflightCheck[] {
  const said: [Condition, string, boolean][] = [
    [plan.startWhen, 'start', plan.start === 'when'],
    [plan.stopWhen, 'stop', plan.stop === 'when'],
    [plan.windowWhen, 'window', plan.detail === 'only in windows'],
  ];
  const way = { label: 'To the plan', href: '/record' };
  const checks = said
    .filter(([, , used]) => used)
    .flatMap(([condition, name]): PreflightCheck[] => {
      const where = `The ${name} condition`;
      if (condition.terms.some((t) => t.channel === null))
        return [{ how: 'wrong', where, what: 'names no channel', next: 'Choose one in the plan.', way }];
      const gone = conditionChannels(condition).filter((id) =>
        ['lost', 'not measured'].includes(app.live.state(id)),
      );
      if (gone.length)
        return [
          {
            how: 'wrong',
            where,
            what: 'waits for a channel that is not measured now',
            next: 'Choose another one, or see on the rig why.',
            way,
          },
        ];
      const fates = condition.terms.map((t) => {
        const c = channels.find((one) => one.id === t.channel);
        return c ? neverOrAlways(t, commonOf(c).range) : null;
      });
      const text = conditionText(condition, namesOf(channels));
      const never = condition.join === 'all' ? fates.includes('never') : fates.every((f) => f === 'never');
      if (never)
        return [
          {
            how: 'wrong',
            where,
            what: `can never come true: ${text} lies outside the channel’s range`,
            next: 'Change the level, or the channel’s range.',
            way,
          },
        ];
      const already = condition.terms.map((t) => t.test.startsWith('is ') && holdsNow(app, t));
      if (name !== 'window' && (condition.join === 'all' ? already.every(Boolean) : already.some(Boolean)))
        return [
          {
            how: 'doubtful',
            where,
            what: `is true already: ${text}`,
            next:
              name === 'start' ? 'The take would start at once.' : 'The take would end as soon as it begins.',
            way,
          },
        ];
      return [];
    });
  const wrongTime = plan.start === 'at a time' ? startAtFault(plan.startAt, Date.now()) : null;
  if (wrongTime)
    checks.push({
      how: 'wrong',
      where: 'The plan',
      what: `cannot start at ${plan.startAt}`,
      next: wrongTime,
      way,
    });
  if (plan.start === 'when another take ends' && app.live.status.state !== 'Recording')
    checks.push({
      how: 'wrong',
      where: 'The plan',
      what: 'follows another take, but none is being recorded',
      next: 'Start the other take first, or choose another start.',
      way,
    });
  return checks;
}

function holdsNow(app: App, t: Condition['terms'][number]): boolean {
  const value = app.live.value(t.channel!);
  const state = app.live.state(t.channel!);
  switch (t.test) {
    case 'is above':
      return value > t.level;
    case 'is below':
      return value < t.level;
    case 'is inside':
      return value >= t.level && value <= t.high;
    case 'is outside':
      return value < t.level || value > t.high;
    case 'is yes':
      return value > 0.5;
    case 'is no':
      return value < 0.5;
    case 'is past a warning':
      return state === 'warning' || state === 'alarm';
    case 'is past an alarm':
      return state === 'alarm';
    default:
      return false;
  }
}

function outputs(app: App, channels: Channel[]): PreflightCheck[] {
  return channels.flatMap((c): PreflightCheck[] => {
    const at = app.live.status.outputs[c.id];
    const amplified = amplifierFor(app, c);
    if (amplified) return [amplified];
    const rest = c.settings.rest as number;
    if (roleOf(c) !== 'driven' || at === undefined || at === rest) return [];
    const { unit } = commonOf(c);
    return [
      {
        how: 'doubtful',
        where: c.name,
        what: `is not at rest: ${at} instead of ${rest}${unit === 'yes/no' ? '' : ` ${unit}`}`,
        next: 'Bring it to rest, or leave it so.',
        way: { label: 'All to rest', act: { key: 'POST /api/record', body: { do: 'rest' } } },
      },
    ];
  });
}

/** Outputs of earlier versions that send a number or switch a contact, but were given the law of an amplifier behind volts. */
function amplifierFor(app: App, c: Channel): PreflightCheck | null {
  const { slope } = c.settings;
  if (c.kind !== 'driven' || slope === 1) return null;
  const at = app.live.status.units
    .find((u) => u.description.serial === c.wire?.unit)
    ?.description.modules.flatMap((m) => m.terminals)
    .find((t) => t.id === c.wire!.terminal);
  if (!at || at.kind === 'output') return null;
  return {
    how: 'wrong',
    where: c.name,
    what: `is divided by ${String(slope)} before it is sent to ${at.id}, as if an amplifier stood behind it`,
    next: 'Set “units for each volt” to 1, or add the channel anew: it is a switch or a sent value there.',
    way: toChannel(c),
  };
}

function rules(app: App, channels: Channel[]): PreflightCheck[] {
  const all = listRules(app.db, jobOf(app).id);
  const inUse = all.filter(({ rule }) => !rule.off);
  const way = { label: 'To the rules', href: '/record' };
  const known = new Set(channels.map((c) => c.id));
  const broken = all.flatMap(({ rule }, k): PreflightCheck[] =>
    rule.off || ruleChannels(rule).every((id) => known.has(id))
      ? []
      : [
          {
            how: 'wrong',
            where: `Rule ${k + 1}`,
            what: 'reads or drives a channel that was removed',
            why: ruleText(rule, namesOf(channels)),
            next: 'Choose another channel in it, or remove the rule.',
            way,
          },
        ],
  );
  const conflicts = ruleConflicts(inUse).map(({ rules: [a, b], output }) => ({
    how: 'doubtful',
    where: `Rules ${all.findIndex((r) => r.id === a) + 1} and ${all.findIndex((r) => r.id === b) + 1}`,
    what: `both drive ${channels.find((c) => c.id === output)?.name ?? 'one output'}`,
    next: 'When both fire in one step, the later one has the last word.',
    way,
  }));
  return [...broken, ...conflicts.map((c): PreflightCheck => ({ ...c, how: 'doubtful' }))];
}

function disk(app: App, plan: Plan, channels: Channel[]): PreflightCheck[] {
  const { bavail, bsize } = statfsSync(app.folder);
  const free = bavail * bsize;
  const perSecond = channels.reduce((sum, c) => sum + commonOf(c).rateHz * BYTES_A_SAMPLE, 0);
  const seconds = plan.longest ?? 3600;
  const need = Math.min(plan.mostMb === null ? Infinity : plan.mostMb * 1e6, perSecond * seconds);
  const text = (bytes: number) =>
    bytes > 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${Math.ceil(bytes / 1e6)} MB`;
  if (need + LEAST_FREE < free) return [];
  return [
    {
      how: 'wrong',
      where: 'Disk',
      what: `has ${text(free)} left, ${plan.longest === null ? 'an hour of it' : 'the longest take'} needs ${text(need)}`,
      next: 'Free some space, record fewer channels, or a shorter time.',
    },
  ];
}

function clock(app: App): PreflightCheck[] {
  const off = Date.now() - app.live.timeMs;
  if (app.live.timeMs === 0 || Math.abs(off) < CLOCK_MS) return [];
  return [
    {
      how: 'doubtful',
      where: 'Clock',
      what: `of the computer differs by ${(off / 1000).toFixed(1)} s from the time of the recording`,
      why: 'It was set while Farrier ran. Times within a take stay right.',
      next: 'Start Farrier anew for takes that carry the new time.',
    },
  ];
}

const alarms = (app: App): PreflightCheck[] =>
  app.alarms.current.open
    .filter((a) => a.level === 'alarm' && a.takenAt === null)
    .map((a) => ({
      how: 'doubtful',
      where: 'Alarm',
      what: `${a.says}, not acknowledged`,
      next: 'Acknowledge it, or see to it.',
      way: {
        label: 'Acknowledge',
        act: { key: 'POST /api/alarms', body: { do: 'take', id: a.id } },
      },
    }));

/** What was changed since the last take: nothing wrong, but good to know. */
function changes(app: App): PreflightCheck[] {
  const [last] = listTakes(app.db, jobOf(app).id);
  if (!last) return [];
  const since = history(app, last.id);
  if (since.length === 0) return [];
  return [
    {
      how: 'good to know',
      where: 'Set-up',
      what: `${since.length === 1 ? 'one change' : `${since.length} changes`} since take ${last.number}: ${since[0].says.slice(0, 90).replace(/\.$/, '')}`,
      next: 'See the list of changes.',
      way: { label: 'To the changes', href: '/channels' },
    },
  ];
}
