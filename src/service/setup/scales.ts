import { randomUUID } from 'node:crypto';
import { conflict, notFound } from '$core/errors';
import { readUnit } from '$core/quantities/quantities';
import { Scale, checkScale, scaleText } from '$contract/scale';
import { listScales } from '$store/entities';
import { jobOf, type App } from '../app';
import { check } from '../check';
import { change, channelsOf } from './change';

const scalesOf = (app: App) => listScales(app.db, jobOf(app).id);

/** Makes a scale (no id) or changes one, along with every channel that uses it. @throws `bad_input`, `conflict` for a name in use */
export async function putScale(
  app: App,
  input: Omit<Scale, 'id' | 'note'> & { id?: string; note?: string },
  by: string,
): Promise<Scale> {
  const units = { rawUnit: readUnit(input.rawUnit), unit: readUnit(input.unit) };
  const scale = checkScale(check(Scale, { note: '', ...input, ...units, id: input.id ?? randomUUID() }));
  const scales = scalesOf(app);
  if (input.id && !scales.some((s) => s.id === input.id)) throw notFound('scale', input.id);
  if (scales.some((s) => s.id !== scale.id && s.name.toLowerCase() === scale.name.toLowerCase()))
    throw conflict('name', `There is a scale “${scale.name}” already.`, 'Give it another name.');
  const users = channelsOf(app).filter((c) => c.scale?.id === scale.id);
  await change(
    app,
    { scales: [scale], channels: users.map((c) => ({ ...c, scale })) },
    'channel',
    scale.id,
    `Scale “${scale.name}”: ${scaleText(scale)}${users.length ? `, used by ${users.length} channels` : ''}.`,
    by,
  );
  return scale;
}

/** @throws `not_found`, `conflict` while a channel uses it */
export async function removeScale(app: App, id: string, by: string): Promise<void> {
  const scale = scalesOf(app).find((s) => s.id === id);
  if (!scale) throw notFound('scale', id);
  const user = channelsOf(app).find((c) => c.scale?.id === id);
  if (user) throw conflict('scale', `“${user.name}” uses “${scale.name}”.`, 'Take it off the channel first.');
  await change(app, { drop: { scales: [id] } }, 'channel', id, `Removed the scale “${scale.name}”.`, by);
}
