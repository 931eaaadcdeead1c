import { isNamed, type Figure, type Mark, type NamedMark } from '../figures/figure';
import { numeric, words } from './classes';
import type { Cell, Column } from '../figures/table';
import type { Finding, ResultTable, StudyResult } from './study';

/** What a study found in one of the takes it ran over; or why it found nothing. */
export interface TakeOutcome {
  name: string;
  result: StudyResult | null;
  fault: string | null;
}

/** More than so many others are not named in a legend. */
const MOST_NAMED = 6;
const COMPARED = ['line', 'step', 'points', 'stems'] as const;
type Compared = Extract<NamedMark, { mark: (typeof COMPARED)[number] }>;
const isCompared = (mark: Mark): mark is Compared => (COMPARED as readonly string[]).includes(mark.mark);

/** Results of one study over several takes as one: a row for each take, their curves over each other. The first stands out, and its findings and
 *  tables are those of the whole. @param outcomes at least one has a result */
export function overTakes(outcomes: readonly TakeOutcome[]): StudyResult {
  const front = outcomes.find((o) => o.result)!;
  const others = outcomes.filter((o) => o.result && o !== front);
  const result = front.result!;
  const first = new Map<string, Finding>();
  for (const f of [front, ...others].flatMap((o) => o.result!.findings))
    if (!first.has(f.label)) first.set(f.label, f);
  const labels = [...first];
  const columns: Column[] = [
    words('Take'),
    ...labels.map(([label, { unit }]) => numeric(label, unit)),
    ...(outcomes.some((o) => o.fault) ? [words('Why not')] : []),
  ];
  const rows = outcomes.map((o): Cell[] => [
    o.name,
    ...labels.map(([label, first]) => {
      const own = o.result?.findings.find((f) => f.label === label);
      return own && own.unit === first.unit ? own.value : null;
    }),
    ...(outcomes.some((x) => x.fault) ? [o.fault ?? ''] : []),
  ]);
  const byTake: ResultTable = { title: 'By take', columns, rows };
  return {
    findings: [
      ...result.findings,
      ...spreads(
        outcomes,
        labels.map(([label]) => label),
      ),
    ],
    figures: result.figures.map((figure, k) => laidOver(figure, k, others, front.name)),
    tables: [byTake, ...result.tables],
  };
}

/** How far each finding goes from take to take. */
function spreads(outcomes: readonly TakeOutcome[], labels: readonly string[]): Finding[] {
  return labels.slice(0, 6).flatMap((label): Finding[] => {
    const found = outcomes.flatMap((o) => {
      const own = o.result?.findings.find((f) => f.label === label);
      return own && Number.isFinite(own.value) ? [{ ...own, take: o.name }] : [];
    });
    if (found.length < 2 || found.some((f) => f.unit !== found[0].unit)) return [];
    const low = found.reduce((a, b) => (b.value < a.value ? b : a));
    const high = found.reduce((a, b) => (b.value > a.value ? b : a));
    return [
      { label: `${label}, lowest of ${found.length}`, value: low.value, unit: low.unit, note: low.take },
      { label: `${label}, highest of ${found.length}`, value: high.value, unit: high.unit, note: high.take },
    ];
  });
}

function laidOver(figure: Figure, k: number, others: readonly TakeOutcome[], front: string): Figure {
  // A lone curve is called by its take, as those behind it are.
  const alone = figure.marks.filter(isNamed).length === 1;
  const own = figure.marks.map((mark): Mark => (alone && isCompared(mark) ? { ...mark, name: front } : mark));
  const same = (other: Figure | undefined): other is Figure =>
    other !== undefined &&
    other.x.unit === figure.x.unit &&
    other.y.unit === figure.y.unit &&
    other.x.scale === figure.x.scale &&
    JSON.stringify(other.x.classes) === JSON.stringify(figure.x.classes);
  const behind = others.flatMap(({ name, result }, at): Mark[] => {
    const figures = result!.figures;
    const other =
      figures[k]?.title === figure.title ? figures[k] : figures.find((f) => f.title === figure.title);
    const found = other ?? (figures.length === 1 && k === 0 ? figures[0] : undefined);
    if (!same(found)) return [];
    return found.marks.filter(isCompared).map((mark, i): Mark => {
      const behind = { ...mark, name: at < MOST_NAMED && i === 0 ? name : '', tone: 'muted' as const };
      return behind.mark === 'line' || behind.mark === 'step'
        ? { ...behind, weight: 'light', dashed: false }
        : behind;
    });
  });
  return { ...figure, marks: [...behind, ...own] };
}
