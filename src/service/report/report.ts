import { badInput } from '$core/errors';
import type { Figure } from '$core/figures/figure';
import type { StudyResult } from '$core/studies/study';
import { usualStrips } from '$contract/take';
import { log, type App } from '../app';
import { viewStudies } from '../study/studies';
import { takeWindow, viewTake } from '../takes';
import { reportPdf } from './pdf';

const MAX_STRIPS = 6;
const BUCKETS = 700;

/** What of a take goes into its report. */
export interface ReportChoice {
  /** Channels drawn as strips, up to six; null takes the first measured ones. */
  signals: number[] | null;
  /** Studies taken along; none named takes all of this take. */
  studies: string[];
}

/** Strips of a take for paper. @throws `bad_input` for more than six */
function reportStrips(app: App, takeId: string, signals: number[] | null): Figure[] {
  if (signals?.length === 0) return [];
  const take = viewTake(app, takeId);
  if (signals && signals.length > MAX_STRIPS)
    throw badInput('strips', signals.length, `A page carries up to ${MAX_STRIPS}: choose fewer.`);
  const chosen = signals ?? usualStrips(take.signals).map((s) => s.id);
  return takeWindow(app, takeId, chosen, 0, take.durationS, BUCKETS).map((part) => {
    const signal = take.signals.find((s) => s.id === part.signal)!;
    const { name, unit, colour } = signal;
    return {
      title: name,
      x: { label: 'Time', unit: 's', scale: 'time' },
      y: { label: name, unit, scale: 'linear' },
      marks: [
        {
          mark: 'band',
          name,
          unit,
          colour,
          solid: true,
          // Extremes stand in the middle of their time.
          x: { from: part.fromS + part.stepS / 2, step: part.stepS, length: part.min.length },
          low: part.min,
          high: part.max,
        },
      ],
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
    studies: studies.map((view) => ({
      view,
      result: view.resultId ? app.results.get<StudyResult>(app.results.drawn(view.resultId)) : null,
    })),
    generated: new Date(),
  });
  log(app, 'report', `Report of ${take.head.name} made, ${Math.round(pdf.length / 1024)} kB.`, { takeId });
  return { name: `${take.head.name}.pdf`, pdf };
}
