import { asFarrierError, damaged } from '$core/errors';
import { channelKind, checkSettings, roleOf } from '$contract/channel';
import { checkScale } from '$contract/scale';
import { SETUP_FORMAT, SETUP_VERSION, SetupFile } from '$contract/setup-file';
import { bodyOfFrame } from '$contract/wireframe';
import { checkUnitSettings } from '$contract/units/config';
import { findUnitKind } from '$contract/units/kinds';
import { listBoards } from '$store/boards';
import * as store from '$store/entities';
import { getPicture } from '$store/logbook';
import { listWireframes } from '$store/wireframes';
import { jobOf, type App } from '../app';
import { checkFormula } from './formulas';

const MAX_CHARACTERS = 60_000_000;

/** The job's set-up with all it depends on, as a file. Passwords and recordings stay behind. */
export function exportSetup(app: App): SetupFile {
  const job = jobOf(app);
  const channels = store.listChannels(app.db, job.id);
  const wired = new Set(channels.map((c) => c.wire?.unit));
  const serials = new Set(channels.map((c) => c.sensorSerial));
  const withoutSecrets = (settings: Record<string, unknown>) =>
    'password' in settings ? { ...settings, password: '' } : settings;
  const boards = listBoards(app.db, job.id);
  const shown = new Set(boards.flatMap((b) => b.views.flatMap((v) => v.picture ?? [])));
  return {
    format: SETUP_FORMAT,
    version: SETUP_VERSION,
    writtenAt: new Date().toISOString(),
    job: { name: job.name, place: job.place },
    units: store
      .listUnits(app.db)
      .filter((u) => wired.has(u.serial))
      .map((u) => ({ ...u, config: { ...u.config, settings: withoutSecrets(u.config.settings) } })),
    scales: store.listScales(app.db, job.id),
    sensors: store.listSensors(app.db).filter((s) => serials.has(s.serial)),
    channels,
    plans: store.listPlans(app.db, job.id).map(({ name, plan }) => ({ name, plan })),
    armedNext: store.jobPlan(app.db, job.id)!.name,
    rules: store.listRules(app.db, job.id).map((r) => r.rule),
    boards: boards.map(({ name, views }) => ({ name, views })),
    wireframes: listWireframes(app.db, job.id).map(bodyOfFrame),
    pictures: [...shown].map((id) => ({ id, data: getPicture(app.db, id).content.toString('base64') })),
    columns: store.getLayout(app.db, job.id, 'channels') as string[] | null,
  };
}

/** Reads a set-up file. @throws `damaged` for what is none, comes from a newer version or breaks a rule, naming the place */
export function readSetup(text: string): SetupFile {
  const where = 'set-up file';
  if (text.length > MAX_CHARACTERS)
    throw damaged(
      where,
      `It has ${Math.round(text.length / 1e6)} MB, more than a set-up can have.`,
      'Choose a file that was exported as a set-up.',
    );
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw damaged(
      where,
      `It is no JSON: ${(error as Error).message.slice(0, 120)}.`,
      'Export it anew; it may have been cut off on its way.',
    );
  }
  const head = value as { format?: unknown; version?: unknown } | null;
  if (head?.format !== SETUP_FORMAT)
    throw damaged(where, 'It is no set-up of Farrier.', 'Choose a file that was exported as a set-up.');
  if (typeof head.version === 'number' && head.version > SETUP_VERSION)
    throw damaged(
      where,
      `It has version ${head.version}, this program reads up to ${SETUP_VERSION}.`,
      'Open it with a newer version.',
    );
  const parsed = SetupFile.safeParse(value);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw damaged(
      `${where}, ${issue.path.join('.')}`,
      issue.message,
      'Export it anew, or correct this place.',
    );
  }
  const file = parsed.data;
  const ids = new Set(file.channels.map((c) => c.id));
  const names = new Set(file.channels.map((c) => c.name));
  if (ids.size < file.channels.length || names.size < file.channels.length)
    throw damaged(where, 'Two channels have the same name.', 'Rename one in the file.');
  file.channels = file.channels.map((c) => {
    try {
      const kind = channelKind(c.kind);
      return { ...c, settings: checkSettings(kind, { ...kind.defaults, ...c.settings }) };
    } catch (error) {
      const fault = asFarrierError(error, c.name);
      throw damaged(
        `${where}, channel “${c.name}”`,
        fault.text.what,
        fault.text.next ?? 'Correct it in the file.',
      );
    }
  });
  for (const c of file.channels) if (roleOf(c) === 'computed') checkFormula(c, file.channels);
  file.scales.forEach(checkScale);
  for (const u of file.units) {
    const there = `${where}, unit ${u.serial}`;
    const kind = findUnitKind(u.kind);
    if (!kind)
      throw damaged(there, `There is no unit of kind “${u.kind}” here.`, 'Open it with a newer version.');
    if (!kind.settings) continue;
    try {
      u.config.settings = checkUnitSettings(u.kind, u.config.settings);
    } catch (error) {
      const { what, why } = asFarrierError(error, u.serial).text;
      throw damaged(there, [what, why].filter(Boolean).join(' '), 'Correct it in the file.');
    }
  }
  for (const { name, of } of [
    { name: 'plans', of: file.plans },
    { name: 'boards', of: file.boards },
    { name: 'wireframes', of: file.wireframes },
    { name: 'scales', of: file.scales },
  ])
    if (new Set(of.map((o) => o.name)).size < of.length)
      throw damaged(where, `Two ${name} have the same name.`, 'Rename one in the file.');
  return file;
}
