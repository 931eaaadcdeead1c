import { randomUUID } from 'node:crypto';
import { badInput, conflict, notFound } from '$core/errors';
import { sentenceText, type Names, type Sentence } from '$core/sentence/sentence';
import {
  channelKind,
  changeSettings,
  checkSettings,
  commonOf,
  roleOf,
  type Channel,
} from '$contract/channel';
import { Channel as ChannelSchema } from '$contract/channel';
import { Plan, Rule, planSentence, ruleSentence } from '$contract/plan';
import { compileExpression } from '$core/expression/expression';
import * as store from '$store/entities';
import type { z } from 'zod';
import { jobOf, log, type App } from './app';

/** Who works here; accounts are not part of this program yet. */
export const BENCH = 'bench';

export function namesOf(channels: Channel[]): Names {
  const byId = new Map(channels.map((c) => [c.id, { name: c.name, unit: commonOf(c).unit }]));
  return { channel: (id) => byId.get(id) };
}

/** Hands the present set-up to the engine. @throws `conflict` while a take is armed or recorded */
export async function pushSetup(app: App): Promise<void> {
  const job = jobOf(app);
  const channels = store.listChannels(app.db, job.id);
  const names = namesOf(channels);
  await app.engine.command({
    do: 'configure',
    setup: {
      units: store.listUnits(app.db),
      channels,
      rules: store
        .listRules(app.db, job.id)
        .map(({ id, rule }) => ({ id, rule, says: sentenceText(ruleSentence, rule, names) })),
    },
  });
}

/** Makes a change of the set-up whole: database, engine, revision, logbook; or not at all. */
async function change(
  app: App,
  kind: store.RevisionKind,
  subject: string,
  says: string,
  before: unknown,
  after: unknown,
  by: string,
): Promise<void> {
  if (JSON.stringify(before) === JSON.stringify(after)) return;
  if (app.live.status.state !== 'Watching')
    throw conflict(
      'set-up',
      `A take is ${app.live.status.state === 'Armed' ? 'armed' : 'being recorded'}: its set-up stays as it is until it ends.`,
      'End it first, then make the change.',
    );
  const jobId = jobOf(app).id;
  app.db.transaction(() => {
    restore(app, kind, subject, after);
    store.insertRevision(app.db, { at: Date.now(), by, jobId, kind, subject, says, before, after });
  });
  log(app, kind, says, { by });
  await pushSetup(app);
}

/** Puts a subject into a state: its content, or null for “not there”. */
function restore(app: App, kind: store.RevisionKind, subject: string, content: unknown): void {
  const jobId = jobOf(app).id;
  switch (kind) {
    case 'channel':
      return content
        ? store.putChannel(app.db, jobId, ChannelSchema.parse(content))
        : store.deleteChannel(app.db, subject);
    case 'plan':
      return store.putPlan(app.db, jobId, content as store.NamedPlan);
    case 'rule':
      return content
        ? store.putRule(app.db, jobId, subject, Rule.parse(content))
        : store.deleteRule(app.db, subject);
    case 'study':
      return content ? store.putStudy(app.db, content as store.StudyRow) : store.deleteStudy(app.db, subject);
  }
}

/** Takes the last change back. @throws `not_found` when there is none */
export async function undo(app: App): Promise<string> {
  const last = store.lastDone(app.db, jobOf(app).id);
  if (!last) throw notFound('change to undo', 'in this job');
  return again(app, last, last.before, true, 'Undone');
}

/** Makes the change again that was undone last. @throws `not_found` when there is none */
export async function redo(app: App): Promise<string> {
  const first = store.firstUndone(app.db, jobOf(app).id);
  if (!first) throw notFound('change to redo', 'in this job');
  return again(app, first, first.after, false, 'Done again');
}

async function again(
  app: App,
  revision: store.Revision,
  content: unknown,
  undone: boolean,
  word: string,
): Promise<string> {
  if (app.live.status.state !== 'Watching')
    throw conflict('set-up', 'A take is armed or being recorded.', 'End it first, then undo.');
  app.db.transaction(() => {
    restore(app, revision.kind, revision.subject, content);
    store.markUndone(app.db, revision.id, undone);
  });
  const says = `${word}: ${revision.says}`;
  log(app, revision.kind, says, { by: BENCH });
  await pushSetup(app);
  return says;
}

const says = <S extends z.ZodObject>(app: App, sentence: Sentence<S>, value: z.infer<S>) =>
  sentenceText(sentence, value, namesOf(store.listChannels(app.db, jobOf(app).id)));

/** What can be changed of a channel at once. */
export interface ChannelChange {
  name?: string;
  group?: string;
  sensorSerial?: string;
  settings?: Record<string, unknown>;
}

/** Changes a channel: settings are checked as a whole, a new unit converts limits, a new name is followed by formulas.
 *  @throws `bad_input` with field and reason, `conflict` for a name in use or a running take */
export async function editChannel(app: App, id: string, edit: ChannelChange, by = BENCH): Promise<Channel> {
  const before = store.getChannel(app.db, id);
  const kind = channelKind(before.kind);
  const after = checkChannel({
    ...before,
    ...edit,
    settings: edit.settings ? changeSettings(kind, before.settings, edit.settings) : before.settings,
  });
  const channels = store.listChannels(app.db, jobOf(app).id);
  if (after.kind === 'computed') checkFormula(after, channels);
  if (after.name !== before.name) followName(app, channels, before.name, after.name);
  await change(
    app,
    'channel',
    id,
    `${after.name}: ${sentenceText(kind.sentence, after.settings, namesOf(channels))}`,
    before,
    after,
    by,
  );
  return after;
}

function checkChannel(channel: unknown): Channel {
  const parsed = ChannelSchema.safeParse(channel);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw badInput(String(issue.path[0] ?? 'channel'), issue.input, issue.message);
}

function checkFormula(channel: Channel, channels: Channel[]): void {
  const { inputs } = compileExpression(channel.settings.formula as string);
  if (inputs.length === 0)
    throw badInput('formula', channel.settings.formula, 'Name at least one channel, in quotation marks.');
  for (const name of inputs) {
    if (name === channel.name) throw badInput('formula', name, 'A channel cannot be computed from itself.');
    if (!channels.some((c) => c.name === name))
      throw badInput(
        'formula',
        name,
        `There is no channel of this name. Near to it: ${nearest(name, channels)}.`,
      );
  }
}

function nearest(name: string, channels: Channel[]): string {
  const start = name.toLowerCase().slice(0, 3);
  const close = channels.filter((c) => c.name.toLowerCase().includes(start));
  return (close.length ? close : channels)
    .slice(0, 3)
    .map((c) => `"${c.name}"`)
    .join(', ');
}

/** Formulas name channels: they follow a new name. */
function followName(app: App, channels: Channel[], from: string, to: string): void {
  for (const c of channels) {
    const formula = c.settings.formula;
    if (typeof formula === 'string' && formula.includes(`"${from}"`))
      store.putChannel(app.db, jobOf(app).id, {
        ...c,
        settings: { ...c.settings, formula: formula.replaceAll(`"${from}"`, `"${to}"`) },
      });
  }
}

/** Adds a channel on a free terminal, or a computed one, with its kind's usual settings.
 *  @throws `conflict` when the terminal or the name is taken, `bad_input` */
export async function addChannel(
  app: App,
  input: {
    name: string;
    kind: string;
    wire: Channel['wire'];
    group?: string;
    settings?: Record<string, unknown>;
    sensorSerial?: string;
  },
  by = BENCH,
): Promise<Channel> {
  const kind = channelKind(input.kind);
  const channels = store.listChannels(app.db, jobOf(app).id);
  const taken =
    input.wire &&
    channels.find((c) => c.wire?.unit === input.wire!.unit && c.wire.terminal === input.wire!.terminal);
  if (taken)
    throw conflict(
      'terminal',
      `“${taken.name}” is wired to ${input.wire!.terminal}.`,
      'Choose a free terminal.',
    );
  if (!input.wire && roleOf({ kind: input.kind }) !== 'computed')
    throw badInput('terminal', null, 'Choose the terminal it is wired to.');
  const channel = checkChannel({
    id: randomUUID(),
    name: input.name,
    group: input.group ?? '',
    kind: kind.kind,
    wire: input.wire,
    sensorSerial: input.sensorSerial ?? '',
    colour: channels.length,
    settings: checkSettings(kind, { ...kind.defaults, ...input.settings }),
    calibration: null,
  });
  if (channel.kind === 'computed') checkFormula(channel, channels);
  await change(
    app,
    'channel',
    channel.id,
    `Added ${channel.name}${channel.wire ? ` on ${channel.wire.terminal}` : ''}: ${sentenceText(kind.sentence, channel.settings, namesOf(channels))}`,
    null,
    channel,
    by,
  );
  return channel;
}

/** @throws `not_found`, `conflict` when a formula or rule needs it */
export async function removeChannel(app: App, id: string, by = BENCH): Promise<void> {
  const channel = store.getChannel(app.db, id);
  const users = store
    .listChannels(app.db, jobOf(app).id)
    .filter((c) => String(c.settings.formula ?? '').includes(`"${channel.name}"`));
  if (users.length)
    throw conflict(
      'channel',
      `“${users[0].name}” is computed from “${channel.name}”.`,
      'Change its formula first.',
    );
  await change(app, 'channel', id, `Removed ${channel.name}.`, channel, null, by);
}

/** Accepts something found for a channel (such as a calibration) as one change. */
export const replaceChannel = (app: App, before: Channel, after: Channel, what: string, by: string) =>
  change(app, 'channel', after.id, what, before, after, by);

/** @throws `bad_input` with field and reason */
export async function editPlan(
  app: App,
  edit: Partial<Plan> & { name?: string },
  by = BENCH,
): Promise<store.NamedPlan> {
  const before = store.jobPlan(app.db, jobOf(app).id)!;
  const { name = before.name, ...values } = edit;
  const after = { ...before, name, plan: check(Plan, { ...before.plan, ...values }) };
  await change(
    app,
    'plan',
    before.id,
    `Plan “${name}”: ${says(app, planSentence, after.plan)}`,
    before,
    after,
    by,
  );
  return after;
}

/** Adds a rule (id null) or changes one. @throws `bad_input` with field and reason */
export async function editRule(
  app: App,
  id: string | null,
  edit: Partial<Rule>,
  by = BENCH,
): Promise<{ id: string; rule: Rule }> {
  const before = id === null ? null : store.listRules(app.db, jobOf(app).id).find((r) => r.id === id);
  if (before === undefined) throw notFound('rule', id!);
  const after = check(Rule, { ...(before?.rule ?? NEW_RULE), ...edit });
  const subject = id ?? randomUUID();
  await change(
    app,
    'rule',
    subject,
    `Rule: ${says(app, ruleSentence, after)}`,
    before?.rule ?? null,
    after,
    by,
  );
  return { id: subject, rule: after };
}

const NEW_RULE: Rule = {
  active: 'always',
  channel: null,
  direction: 'rises above',
  level: 0,
  hysteresis: 0,
  output: null,
  value: 0,
  after: 'return it to rest',
};

export async function removeRule(app: App, id: string, by = BENCH): Promise<void> {
  const before = store.listRules(app.db, jobOf(app).id).find((r) => r.id === id);
  if (!before) throw notFound('rule', id);
  await change(
    app,
    'rule',
    id,
    `Removed the rule: ${says(app, ruleSentence, before.rule)}`,
    before.rule,
    null,
    by,
  );
}

/** A value by its schema. @throws `bad_input` with the field, the value and the rule it breaks */
export function check<S extends z.ZodType>(schema: S, value: unknown): z.infer<S> {
  const parsed = schema.safeParse(value, { reportInput: true });
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw badInput(issue.path.join('.') || 'input', issue.input, issue.message);
}
