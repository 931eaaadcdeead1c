import { badInput } from '$core/errors';
import { formatKind } from '$core/formats/registry';
import { takePath, type App } from './app';
import { check } from './check';
import { describeSignal, openTake } from './takes';
import type { WriteTakeTask } from './write-take';

export interface ExportAsk {
  format: string;
  signals?: number[];
  options?: Record<string, unknown>;
}

/** What a thread needs to write a take in an open format, and what the file is called. @throws `bad_input`, `not_found` */
export function takeTask(
  app: App,
  id: string,
  { format, signals = [], options = {} }: ExportAsk,
): Omit<WriteTakeTask, 'to'> & { name: string } {
  const { title, extensions, writing } = formatKind(format);
  if (!writing) throw badInput('format', title, 'It is only read, not written.');
  const wanted = check(writing.sentence.schema, { ...writing.defaults, ...options });
  const reader = openTake(app, id);
  const about = reader.signals.flatMap((s): WriteTakeTask['about'] => {
    if (s.channelId === null) return [];
    const { sentence, calibration } = describeSignal(s);
    return [[s.channelId, [['Sensor and settings', sentence], ['Calibration', calibration]]]]; // prettier-ignore
  });
  const { name } = reader.head;
  return { name: `${name}.${extensions[0]}`, path: takePath(app, id), called: name, format, signals, options: wanted, about }; // prettier-ignore
}
