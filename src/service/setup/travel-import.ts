import { randomUUID } from 'node:crypto';
import { isDeepStrictEqual } from 'node:util';
import { asFarrierError, conflict } from '$core/errors';
import type { Board } from '$contract/board';
import type { Calibration } from '$contract/calibration-record';
import { channelKind, type Channel } from '$contract/channel';
import { EMPTY_PLAN } from '$contract/plan';
import { proofKey } from '$contract/proof';
import type { Rule } from '$contract/rule';
import type { Fate, Fated, ImportChoice, ImportPreview, SetupFile } from '$contract/setup-file';
import { findUnitKind } from '$contract/units/kinds';
import type { NamedFrame } from '$contract/wireframe';
import { listBoards } from '$store/boards';
import { listWireframes } from '$store/wireframes';
import * as store from '$store/entities';
import { findPicture } from '$store/logbook';
import { existsSync } from 'node:fs';
import { jobOf, type App } from '../app';
import { keepPicture, readPicture } from '../boards';
import { mayCall } from '../hosts';
import { change, channelsOf, idle, recordingPath } from './change';
import { type SetupPatch } from './patch';
import { checkWire } from './edits';
import { readSetup } from './travel';

/** A file as it would be put into this job. */
interface Fitted {
  patch: SetupPatch;
  channels: Channel[];
  /** Calibrations that are not kept here yet. */
  calibrations: Calibration[];
  throughOthers: ImportPreview['throughOthers'];
  /** Id of the plan that is armed next. */
  armedNext: string;
}

/** The same, whatever order its keys are in and whether what is not set is left out. */
const same = (a: unknown, b: unknown): boolean =>
  isDeepStrictEqual(JSON.parse(JSON.stringify(a)), JSON.parse(JSON.stringify(b)));

/** Fits a file into this job: channels, scales, plans and boards that are here by name keep their ids, units go where they are mapped to. */
function fitted(app: App, file: SetupFile, { mapping, sameWires }: ImportChoice, by: string): Fitted {
  const jobId = jobOf(app).id;
  const byName = <T extends { name: string }>(all: T[]) => new Map(all.map((t) => [t.name, t]));
  const channelsNow = byName(channelsOf(app));
  const idOf = new Map(file.channels.map((c) => [c.id, channelsNow.get(c.name)?.id ?? randomUUID()]));
  const scalesNow = byName(store.listScales(app.db, jobId));
  const scaleOf = new Map(
    file.scales.map((s) => [s.id, { ...s, id: scalesNow.get(s.name)?.id ?? randomUUID() }]),
  );
  const calibrations: Calibration[] = [];
  const throughOthers: Fitted['throughOthers'] = [];
  const channels = file.channels.map((c): Channel => {
    const fits = {
      ...c,
      id: idOf.get(c.id)!,
      wire: c.wire && { ...c.wire, unit: mapping[c.wire.unit] ?? c.wire.unit },
      scale: c.scale && (scaleOf.get(c.scale.id) ?? c.scale),
    };
    if (!c.calibration) return fits;
    let calibration: Calibration = { ...c.calibration, channelId: fits.id };
    if (c.wire && fits.wire!.unit !== c.wire.unit && calibration.proves === proofKey(c)) {
      const [from, to] = [c.wire.unit, fits.wire!.unit];
      throughOthers.push({ channel: c.name, from, to });
      if (sameWires)
        calibration = {
          ...calibration,
          proves: proofKey(fits),
          note: `${calibration.note} Taken over by ${by}: the same wire, on ${to} in place of ${from}.`.trim(),
        };
    }
    const kept = store
      .listCalibrations(app.db, fits.id)
      .find((k) => same({ ...k, id: '' }, { ...calibration, id: '' }));
    calibration = { ...calibration, id: kept?.id ?? randomUUID() };
    if (!kept) calibrations.push(calibration);
    return { ...fits, calibration };
  });
  const channelId = (id: string | null) => (id === null ? null : (idOf.get(id) ?? null));

  const plansNow = store.listPlans(app.db, jobId);
  const planByName = byName(plansNow);
  // A new job's one empty plan makes room for the one that comes.
  const blank =
    plansNow.length === 1 &&
    same(plansNow[0].plan, EMPTY_PLAN) &&
    !file.plans.some((p) => p.name === plansNow[0].name)
      ? plansNow[0].id
      : undefined;
  const plans = file.plans.map(({ name, plan }) => ({
    id: planByName.get(name)?.id ?? (name === file.armedNext ? blank : undefined) ?? randomUUID(),
    name,
    plan: withChannels(plan, channelId),
  }));

  const boardsNow = byName(listBoards(app.db, jobId));
  const boards = file.boards.map((board): Board => ({
    ...withChannels(board, channelId),
    id: boardsNow.get(board.name)?.id ?? randomUUID(),
  }));

  const framesNow = byName(listWireframes(app.db, jobId));
  const wireframes = file.wireframes.map((frame): NamedFrame => ({
    ...frame,
    // One of a take is in no set-up: it keeps its name.
    sensors: frame.sensors.map((s) => ({ ...s, channel: channelId(s.channel) ?? s.channel })),
    id: framesNow.get(frame.name)?.id ?? randomUUID(),
  }));

  const rulesNow = store.listRules(app.db, jobId);
  const free = [...rulesNow];
  const rules = file.rules.map((rule) => {
    const fits = withChannels(rule, channelId);
    const at = free.findIndex((r) => same(r.rule, fits));
    return { id: at < 0 ? randomUUID() : free.splice(at, 1)[0].id, rule: fits };
  });
  const reordered = !isDeepStrictEqual(
    rules.map((r) => r.id),
    rulesNow.map((r) => r.id),
  );
  const serials = new Set(store.listUnits(app.db).map((u) => u.serial));
  return {
    channels,
    calibrations,
    throughOthers,
    armedNext: plans.find((p) => p.name === file.armedNext)?.id ?? store.jobPlan(app.db, jobId)!.id,
    patch: {
      units: file.units.filter((u) => !mapping[u.serial] && !serials.has(u.serial)),
      scales: [...scaleOf.values()],
      channels,
      plans,
      boards,
      wireframes,
      rules,
      ...(reordered && { ruleOrder: rules.map((r) => r.id) }),
      drop: { rules: free.map((r) => r.id) },
    },
  };
}

/** A plan, rule or board whose channels go by other ids; one that is not known is left open. */
function withChannels<T>(value: T, idOf: (id: string | null) => string | null): T {
  return JSON.parse(
    JSON.stringify(value, (key, held: unknown) => {
      if (key === 'channel' || key === 'output') return idOf(held as string | null);
      if (key === 'spots') return (held as { channel: string }[]).filter((s) => idOf(s.channel));
      return key === 'channels' ? (held as string[]).flatMap((id) => idOf(id) ?? []) : held;
    }),
  ) as T;
}

/** What importing a file would add, replace and leave, without doing it. @throws `damaged` */
export function previewSetup(app: App, text: string, choice: ImportChoice): ImportPreview {
  const file = readSetup(text);
  const { channels, patch, throughOthers } = fitted(app, file, choice, '');
  const jobId = jobOf(app).id;
  const present = channelsOf(app);
  const units = store.listUnits(app.db);
  const incoming = new Set(file.channels.map((c) => c.name));
  const fates = <T extends { name: string }>(now: T[], next: T[], seen: (t: T) => unknown): Fated[] => {
    const was = new Map(now.map((t) => [t.name, t]));
    return next.map((t) => ({ name: t.name, fate: fate(was.get(t.name), t, seen) }));
  };
  const sensorsNow = new Map(store.listSensors(app.db).map((s) => [s.serial, s]));
  const pictureless = ({ views }: Board) => views.map((v) => ({ ...v, picture: v.picture !== null }));
  const rulesNow = store.listRules(app.db, jobId).map((r) => r.rule);
  return {
    job: `${file.job.name}, written ${file.writtenAt.slice(0, 16).replace('T', ' ')}`,
    units: file.units.map((u) => ({
      serial: u.serial,
      name: u.name,
      kind: u.kind,
      present: units.some((p) => p.serial === u.serial),
      choices: units
        .filter((p) => p.kind === u.kind && p.serial !== u.serial)
        .map(({ serial, name }) => ({ serial, name })),
      takes: choice.mapping[u.serial] ?? null,
    })),
    channels: fates(present, channels, plain),
    left: present.filter((c) => !incoming.has(c.name)).map((c) => c.name),
    scales: fates(store.listScales(app.db, jobId), patch.scales!, (s) => ({ ...s, id: '' })),
    sensors: file.sensors.map((s) => ({
      name: `${s.serial}, ${s.kind}`,
      fate: fate(sensorsNow.get(s.serial), s, (one) => one),
    })),
    plans: fates(store.listPlans(app.db, jobId), patch.plans!, (p) => p.plan),
    boards: fates(listBoards(app.db, jobId), patch.boards!, pictureless),
    wireframes: fates(listWireframes(app.db, jobId), patch.wireframes!, (f) => ({ ...f, id: '' })),
    armedNext: file.armedNext,
    rules: {
      count: file.rules.length,
      fate: same(
        patch.rules!.map((r) => r.rule),
        rulesNow,
      )
        ? 'as they are'
        : 'replaced',
    },
    throughOthers,
    addresses: addressesOf(file.rules).map((address) => ({ address, listed: mayCall(app, address) })),
    notes: notesOf(app, patch),
    faults: wireFaults(app, channels, incoming),
  };
}

const fate = <T>(now: T | undefined, next: T, seen: (t: T) => unknown): Fate =>
  now === undefined ? 'added' : same(seen(now), seen(next)) ? 'as it is' : 'replaced';

/** A channel as far as it matters for being the same. */
const plain = (c: Channel) => ({
  ...c,
  colour: 0,
  calibration: c.calibration && { ...c.calibration, id: '', channelId: '' },
  scale: c.scale && { ...c.scale, id: '' },
});

const addressesOf = (rules: Rule[]) => [
  ...new Set(rules.flatMap((r) => r.deeds.flatMap((d) => (d.do === 'call an address' ? [d.address] : [])))),
];

/** What of the units that would be added is not in the file, and what cannot be checked before they answer. */
function notesOf(app: App, { units = [], channels = [] }: SetupPatch): string[] {
  const silent = units.flatMap((unit) => {
    const path = recordingPath(app, unit);
    return path && !existsSync(path)
      ? [`${unit.name} (${unit.serial}) plays a recording that does not travel: choose one once it is here.`]
      : [];
  });
  const secret = units.flatMap(({ name, serial, config, kind }) =>
    findUnitKind(kind)?.settings && 'password' in config.settings
      ? [`${name} (${serial}): a password does not travel; give it anew where one is needed.`]
      : [],
  );
  const known = new Set(app.live.status.units.map((u) => u.description.serial));
  const unseen = [
    ...new Set(channels.flatMap((c) => (c.wire && !known.has(c.wire.unit) ? [c.wire.unit] : []))),
  ];
  return [
    ...silent,
    ...secret,
    ...(unseen.length
      ? [
          `The terminals of ${unseen.join(', ')} are checked once ${unseen.length > 1 ? 'they answer' : 'it answers'}.`,
        ]
      : []),
  ];
}

/** Terminals that are not there, do not take the channel, or would be taken twice: by two of the file, or by one that stays. */
function wireFaults(app: App, channels: Channel[], incoming: Set<string>): string[] {
  const staying = channelsOf(app).filter((c) => c.wire && !incoming.has(c.name));
  const after = [...staying, ...channels];
  const wire = (c: Channel) => `${c.wire?.unit} ${c.wire?.terminal}`;
  const takes = (c: Channel) => channelKind(c.kind).accepts.join();
  return channels.flatMap((c, k) => {
    if (!c.wire) return [];
    const faults: string[] = [];
    try {
      checkWire(app.live.status.units, c.wire, c);
    } catch (error) {
      faults.push(`“${c.name}” on ${c.wire.terminal}: ${asFarrierError(error, c.name).text.next}`);
    }
    const taken = after
      .slice(0, staying.length + k)
      .find((o) => o.wire && wire(o) === wire(c) && takes(o) === takes(c));
    if (taken)
      faults.push(
        `“${c.name}” and “${taken.name}”${staying.includes(taken) ? ', which stays,' : ''} would both be on ${c.wire.terminal}: remove one, or map the unit elsewhere.`,
      );
    return faults;
  });
}

/** Boards whose pictures are kept here; the same picture is kept once. @throws `bad_input` for what is no picture */
function withPictures(app: App, boards: Board[], pictures: SetupFile['pictures']): Board[] {
  const contents = new Map(pictures.map(({ id, data }) => [id, Buffer.from(data, 'base64')]));
  const kept = new Map<number, number>();
  const here = (id: number | null): number | null => {
    const content = id === null ? undefined : contents.get(id);
    if (id === null || !content) return null;
    if (!kept.has(id)) kept.set(id, findPicture(app.db, content) ?? keepPicture(app, content));
    return kept.get(id)!;
  };
  return boards.map((b) => ({ ...b, views: b.views.map((v) => ({ ...v, picture: here(v.picture) })) }));
}

/** Imports a set-up file whole, as one change that can be undone; or not at all. Sensors go into the drawer.
 *  @throws `damaged`, `conflict` while a take runs, and when terminals are not there or would be taken twice */
export async function importSetup(app: App, text: string, choice: ImportChoice, by: string): Promise<void> {
  idle(app);
  const file = readSetup(text);
  const { patch, channels, calibrations, armedNext } = fitted(app, file, choice, by);
  const faults = wireFaults(app, channels, new Set(file.channels.map((c) => c.name)));
  if (faults.length)
    throw conflict(
      'set-up file',
      `${faults[0]}${faults.length > 1 ? ` And ${faults.length - 1} more.` : ''}`,
      'Correct these in the file, or map the unit to another one.',
    );
  for (const { data } of file.pictures) readPicture(Buffer.from(data, 'base64'));
  await change(
    app,
    { ...patch, boards: withPictures(app, patch.boards!, file.pictures) },
    'setup',
    '',
    `Imported the set-up of ${file.job.name}: ${channels.length} channels, ${file.units.length} units, ${file.scales.length} scales, ${file.plans.length} plans, ${file.rules.length} rules, ${file.boards.length} boards.`,
    by,
  );
  app.db.transaction(() => {
    for (const s of file.sensors) store.putSensor(app.db, s);
    if (file.columns) store.putLayout(app.db, jobOf(app).id, 'channels', file.columns);
    for (const calibration of calibrations) store.insertCalibration(app.db, calibration);
    store.makePlanCurrent(app.db, jobOf(app).id, armedNext);
  });
}
