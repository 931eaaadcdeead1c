import { listRuns } from '../radio/emission-runs';
import { listNoise } from '../radio/noise-state';
import { clockText, dayText, plainReading } from '$core/readings';
import type { StudyResult } from '$core/studies/study';
import type { ReportBody } from '$contract/report';
import type { SeriesTable } from '$contract/series';
import type { StudyView } from '$contract/study';
import type { TakeSignal, TakeView } from '$contract/take';
import { jobOf, type App } from '../app';
import { pictureOf } from '../boards';
import { seriesOf, seriesTable } from '../inspect/series';
import { viewStudies } from '../study/studies';
import { trailOf } from '../study/trail';
import { openTake, uncertaintiesAt, valuesAt, viewTake } from '../takes';
import type { PageContext } from './blocks/block';
import { modalFor } from '../modal/out';
import { curvesOf, pairsFor, partsOf } from './curves';

/** What blocks draw from, for one take. Everything is looked up when a block asks for it, once. */
export function contextFor(
  app: App,
  { called, pages }: Pick<ReportBody, 'called' | 'pages'>,
  takeId: string | null,
  takes: PageContext['takes'],
  series: readonly SeriesTable[] = [],
): Omit<PageContext, 'page' | 'pages'> & { pages: number; values(): { name: string; says: string }[] } {
  const take = takeId ? viewTake(app, takeId) : null;
  let all: StudyView[] | null = null;
  const studiesOf = (id: string) =>
    (all ??= viewStudies(app).filter((s) => s.state === 'done')).filter(
      (s) => s.takes.includes(id) || s.takeId === id,
    );
  const named = (id: string, name: string) =>
    name ? studiesOf(id).find((s) => s.name === name) : studiesOf(id)[0];
  const results = new Map<string, StudyResult>();
  const resultOf = (view: StudyView) => {
    if (!results.has(view.id)) results.set(view.id, app.results.get(app.results.drawn(view.resultId!)));
    return results.get(view.id)!;
  };
  let known: Map<string, string> | null = null;
  const values = () => (known ??= liveValues(app, take, takeId ? studiesOf(takeId) : []));
  return {
    take,
    // Bound to none, it is about the one that it is shown for.
    takes: takes.length || !take ? takes : [{ id: take.head.id, name: take.head.name }],
    pages: pages.length,
    channels: (ids) => {
      const found: TakeSignal[] = [];
      const lacking: string[] = [];
      for (const id of ids) {
        const signal = take?.signals.find((s) => s.channelId === id) ?? take?.signals.find((s) => s.name === called[id]); // prettier-ignore
        if (signal) found.push(signal);
        else lacking.push(called[id] ?? 'a channel that is gone');
      }
      return { found, lacking };
    },
    curves: (...asked) => curvesOf(app, takeId!, ...asked),
    parts: (...asked) => partsOf(app, takeId!, ...asked),
    readings: (signals, atS) => {
      const ids = signals.map((s) => s.id);
      const [values, uncertainties] = [
        valuesAt(app, takeId!, ids, atS),
        uncertaintiesAt(app, takeId!, ids, atS),
      ];
      return values.map((value, k) => ({ value, uncertainty: uncertainties[k] }));
    },
    pairs: (...asked) => pairsFor(app, takeId!, ...asked),
    study: (name, has = () => true) => {
      if (!takeId) return null;
      const able = name ? [named(takeId, name)] : studiesOf(takeId);
      for (const view of able)
        if (view && (name || has(resultOf(view)))) return { view, result: resultOf(view) };
      return null;
    },
    studyOf: (id, name) => named(id, name) ?? null,
    factsOf: (id) => openTake(app, id).head.facts,
    series: (name) => (name ? (series.find((s) => s.name === name) ?? null) : (series[0] ?? null)),
    trail: (study) => trailOf(app, study),
    noise: (device) =>
      listNoise(app.db, jobOf(app).id).findLast((r) => device === '' || r.device === device) ?? null,
    emissions: (device) =>
      listRuns(app.db, jobOf(app).id).findLast((r) => !r.ambient && (device === '' || r.device === device)) ??
      null,
    modal: (name, set) => modalFor(app, name, set),
    picture: (id) => {
      try {
        return pictureOf(app, id);
      } catch {
        return null;
      }
    },
    value: (name) => values().get(name) ?? null,
    values: () => [...values()].map(([name, says]) => ({ name, says })),
  };
}

/** Values that words can name. */
function liveValues(app: App, take: TakeView | null, studies: readonly StudyView[]): Map<string, string> {
  const values = new Map<string, string>();
  // The first of a name counts.
  const put = (name: string, says: string) => void (values.has(name) || values.set(name, says));
  put('job', jobOf(app).name);
  put('today', dayText(new Date().toISOString().slice(0, 10)));
  if (!take) return values;
  const { head } = take;
  const start = new Date(Number(BigInt(head.startNs) / 1_000_000n)).toISOString();
  put('take', head.name);
  put('number', String(head.number));
  put('date', dayText(start.slice(0, 10)));
  put('time', `${start.slice(11, 16)} UTC`);
  put('length', clockText(take.durationS));
  put('plan', head.planText);
  for (const [name, value] of Object.entries(head.facts)) put(name, value);
  for (const study of studies)
    for (const { label, value, unit } of study.findings)
      put(label, `${plainReading(value)}${unit && unit !== '1' ? ` ${unit}` : ''}`);
  return values;
}

/** The series that blocks of some pages name, or mean by naming none. */
export async function seriesFor(app: App, pages: ReportBody['pages']): Promise<SeriesTable[]> {
  const named = pages.flatMap((p) => p.blocks.filter((b) => b.kind === 'series').map((b) => String(b.settings.series ?? ''))); // prettier-ignore
  if (named.length === 0) return [];
  const all = seriesOf(app);
  const wanted = named.flatMap((name) => (name ? all.filter((s) => s.name === name) : all.slice(0, 1)));
  return Promise.all([...new Set(wanted.map((s) => s.id))].map((id) => seriesTable(app, id)));
}
