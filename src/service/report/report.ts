import { badInput } from '$core/errors';
import { usualStrips } from '$contract/take';
import { log, type App } from '../app';
import { viewStudies } from '../studies';
import { takeWindow, viewTake } from '../takes';
import type { Strip } from './figures';
import { reportPdf } from './pdf';

const MAX_STRIPS = 6;
const BUCKETS = 700;

/** What of a take goes into its report. */
export interface ReportChoice {
  /** Channels drawn as strips, up to six; none named takes the first measured ones. */
  signals: number[];
  /** Studies taken along; none named takes all of this take. */
  studies: string[];
}

/** Strips of a take for paper. @throws `bad_input` for more than six */
export function reportStrips(app: App, takeId: string, signals: number[]): Strip[] {
  const take = viewTake(app, takeId);
  if (signals.length > MAX_STRIPS)
    throw badInput('strips', signals.length, `A page carries up to ${MAX_STRIPS}: choose fewer.`);
  const chosen = signals.length ? signals : usualStrips(take.signals).map((s) => s.id);
  return takeWindow(app, takeId, chosen, 0, take.durationS, BUCKETS).map((part) => {
    const signal = take.signals.find((s) => s.id === part.signal)!;
    return {
      name: signal.name,
      unit: signal.unit,
      colour: signal.colour,
      fromS: part.fromS,
      stepS: part.stepS,
      min: part.min,
      max: part.max,
    };
  });
}

/** The report of a take. @throws `not_found`, `bad_input` */
export async function makeReport(
  app: App,
  takeId: string,
  choice: ReportChoice,
): Promise<{ name: string; pdf: Buffer }> {
  const take = viewTake(app, takeId);
  const studies = viewStudies(app).filter(
    (s) => s.takeId === takeId && (choice.studies.length === 0 || choice.studies.includes(s.id)),
  );
  const pdf = await reportPdf({
    take,
    strips: reportStrips(app, takeId, choice.signals),
    studies,
    generated: new Date(),
  });
  log(app, 'report', `Report of ${take.head.name} made, ${Math.round(pdf.length / 1024)} kB.`, { takeId });
  return { name: `${take.head.name}.pdf`, pdf };
}
