import Papa from 'papaparse';
import { uncertaintyAt } from '$core/uncertainty/budget';
import { commonOf } from '$contract/channel';
import { getChannel, listCalibrations } from '$store/entities';
import type { App } from '../app';

interface TextFile {
  name: string;
  text: string;
  mediaType: string;
}

/** All calibrations of a channel, newest first, as they are kept. @throws `not_found` */
export function historyJson(app: App, channelId: string): TextFile {
  const channel = getChannel(app.db, channelId);
  const calibrations = listCalibrations(app.db, channelId);
  return {
    name: `${channel.name} calibrations.json`,
    text: JSON.stringify(
      {
        format: 'farrier-calibrations',
        version: 1,
        channel: channel.name,
        sensor: channel.sensorSerial,
        calibrations,
      },
      null,
      2,
    ),
    mediaType: 'application/json',
  };
}

/** The same as a table: a row for each point, and one for a calibration without points. @throws `not_found` */
export function historyCsv(app: App, channelId: string): TextFile {
  const channel = getChannel(app.db, channelId);
  const { range } = commonOf(channel);
  const end = Math.max(Math.abs(range.min), Math.abs(range.max));
  const data = listCalibrations(app.db, channelId).flatMap((c) => {
    const head = [
      new Date(c.at).toISOString(),
      c.method,
      c.finding,
      c.by,
      c.due,
      c.reference?.serial ?? '',
      c.environment,
      c.slope,
      c.offset,
      `${c.unit}/${c.rawUnit}`,
      c.form,
      c.largestResidual,
      c.budget.length ? uncertaintyAt(c.budget, end).expanded : '',
      c.asFound ?? '',
      c.note,
    ];
    if (c.points.length === 0) return [[...head, '', '', '', '', '', '']];
    return c.points.map((p, k) => [
      ...head,
      p.target,
      p.going,
      p.raw,
      p.noise,
      c.residuals[k] === undefined ? '' : -c.residuals[k],
      p.dropped ?? '',
    ]);
  });
  const fields = [
    'at', 'method', 'finding', 'by', 'due', 'reference', 'environment', 'slope', 'offset', 'slope_unit', 'fit',
    'largest_residual', `expanded_uncertainty_at_${end}`, 'as_found', 'note', 'target', 'going', 'raw', 'noise', 'reading_less_reference', 'left_out',
  ]; // prettier-ignore
  return {
    name: `${channel.name} calibrations.csv`,
    text: Papa.unparse({ fields, data }, { escapeFormulae: true }) + '\r\n',
    mediaType: 'text/csv',
  };
}
