import { badInput } from '$core/errors';
import { FIT_FORMS } from '$core/fit/forms';
import { contribution } from '$core/uncertainty/budget';
import type { Calibration } from '$contract/calibration-record';
import { canCalibrate, changeSettings, channelKind, commonOf, type Channel } from '$contract/channel';
import { doubt, siblingsOf } from './plausible';
import { SheetEntry } from '$contract/sheet-entry';
import { checkScale, twoPoints } from '$contract/scale';
import { getChannel } from '$store/entities';
import type { App } from '../app';
import { check } from '../check';
import { channelsOf } from '../setup/change';
import { presentLine } from './bridges';
import { keep, recordOf } from './keep';

/** What a certificate makes of a channel, and whether its value is plausible beside its siblings. Nothing is changed.
 *  @throws `bad_input` naming field and reason */
export function readSheet(app: App, channelId: string, entry: SheetEntry, by: string) {
  const channel = getChannel(app.db, channelId);
  const sheet = check(SheetEntry, entry);
  const kind = channelKind(channel.kind);
  const { unit } = commonOf(channel);
  const fromRaw = kind.linear || kind.certified === 'from raw';
  if ((sheet.line || sheet.table) && !canCalibrate(kind))
    throw badInput('line', channel.kind, 'This kind has nothing but its own settings.');
  if (sheet.table && !fromRaw)
    throw badInput('table', channel.kind, 'It has a law of its own: give slope and offset of a correction.');
  const settings = Object.keys(sheet.settings).length
    ? changeSettings(kind, channel.settings, sheet.settings)
    : channel.settings;
  const applies = sheet.line !== null || sheet.table !== null;
  const base: Channel = { ...channel, settings, calibration: applies ? channel.calibration : null, tare: 0 };
  const budget =
    sheet.goodTo > 0 || sheet.goodToShare > 0
      ? [
          contribution({
            name: 'Certificate',
            type: 'B',
            halfWidth: sheet.goodTo,
            relative: sheet.goodToShare / 100,
            coverage: 2,
          }),
        ]
      : [];
  const line = sheet.table ? lineOf(sheet.table) : (sheet.line ?? presentLine(base));
  const calibration: Calibration = recordOf(
    base,
    {
      method: 'by sheet',
      ...line,
      form: sheet.table ? FIT_FORMS[4] : 'straight line',
      law: sheet.table ? tableLaw(sheet.table, unit, kind.rawUnit) : null,
      fromRaw: applies ? fromRaw : null,
      applies,
      budget,
      due: sheet.due,
      note: sheet.note,
    },
    by,
    sheet.made ? Date.parse(sheet.made) : Date.now(),
  );
  const next: Channel = { ...base, calibration };
  const others = channelsOf(app);
  return { channel: base, calibration, warning: doubt(next, others), siblings: siblingsOf(next, others) };
}

function lineOf(table: { raw: number; value: number }[]): { slope: number; offset: number } {
  const { slope, offset } = twoPoints(table[0], table[table.length - 1]);
  return { slope, offset };
}

function tableLaw(table: { raw: number; value: number }[], unit: string, rawUnit: string) {
  const rows = [...table].sort((a, b) => a.raw - b.raw);
  const law = { kind: 'table' as const, xs: rows.map((r) => r.raw), ys: rows.map((r) => r.value) };
  checkScale({ id: '', name: 'table', rawUnit, unit, law, note: '' });
  return law;
}

/** Takes over a certificate: in force at once, kept for ever. A doubtful value is taken too: the warning was shown. @throws as readSheet */
export async function acceptSheet(
  app: App,
  channelId: string,
  entry: SheetEntry,
  by: string,
): Promise<Calibration> {
  const { channel, calibration, warning } = readSheet(app, channelId, entry, by);
  const what = calibration.applies
    ? `slope ${calibration.slope.toPrecision(6)} ${calibration.unit}/${calibration.rawUnit}`
    : 'its values';
  await keep(
    app,
    [{ channel, calibration }],
    `${channel.name} calibrated by sheet: ${what}.${warning ? ` Taken although: ${warning}` : ''}`,
    by,
  );
  return calibration;
}
