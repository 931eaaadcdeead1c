import { fixed, readingText } from '$core/readings';
import type { NamedSeries, SeriesColumn, SeriesTable } from '$contract/series';
import { call, faultText, type FaultText } from '../api';
import type { Inspection } from './inspection.svelte';
import type { TakeList } from './take-list.svelte';

/** What stands under a column of a series, beside mean and standard deviation. */
export const STATISTICS = [
  ['standardDeviation', 's'],
  ['variation', 'variation, %'],
  ['lowest', 'lowest'],
  ['highest', 'highest'],
  ['median', 'median'],
  ['halfWidth95', '± 95 % of the mean'],
] as const;

/** The series of the job, one of them shown as a table. */
export class SeriesDesk {
  all = $state.raw<NamedSeries[]>([]);
  table = $state.raw<SeriesTable | null>(null);
  fault = $state<FaultText | null>(null);
  busy = $state(false);
  private asked = 0;

  constructor(
    private readonly insp: Inspection,
    private readonly list: TakeList,
    /** Told the takes that do not count, with the reason. */
    private readonly onout: (out: Map<string, string>) => void,
  ) {}

  private async safely(work: () => Promise<unknown>): Promise<void> {
    this.busy = true;
    try {
      await work();
      this.fault = null;
    } catch (error) {
      this.fault = faultText(error);
    } finally {
      this.busy = false;
    }
  }
  load = (): Promise<void> => this.safely(() => this.fetch());
  private async fetch(): Promise<void> {
    const own = ++this.asked;
    const all = await call('GET /api/series');
    if (own !== this.asked) return;
    this.all = all;
    const wanted = all.find((s) => s.id === this.insp.series) ?? all[0];
    const table = wanted ? await call('GET /api/series/[id]/table', { params: { id: wanted.id } }) : null;
    if (own !== this.asked) return;
    this.table = table;
    this.onout(new Map(table?.rows.filter((r) => !r.counts).map((r) => [r.take, r.reason])));
  }

  choose(id: string): void {
    this.insp.series = id;
    this.insp.tell();
  }
  /** A series of what the drawer shows. */
  make = (): Promise<void> =>
    this.safely(async () => {
      const names = new Set(this.all.map((s) => s.name));
      let name = 'Series';
      for (let n = 2; names.has(name); n++) name = `Series ${n}`;
      const { id } = await call('POST /api/series', { body: { name, series: { filter: this.list.filter } } });
      this.choose(id);
    });
  private change = (body: { name?: string; series?: SeriesTable['series'] }): Promise<void> =>
    this.safely(async () => {
      await call('PATCH /api/series/[id]', { params: { id: this.table!.id }, body });
      await this.fetch();
    });
  rename = (name: string): void => {
    if (name.trim() && name !== this.table!.name) void this.change({ name: name.trim() });
  };
  /** It holds what the drawer shows now. */
  hold = (): Promise<void> => this.change({ series: { ...this.table!.series, filter: this.list.filter } });
  /** @param at place of the column; null for one more @param column null takes it away */
  put(at: number | null, column: SeriesColumn | null): void {
    const columns = [...this.table!.series.columns];
    if (column === null) columns.splice(at!, 1);
    else if (at === null) columns.push(column);
    else columns[at] = column;
    void this.change({ series: { ...this.table!.series, columns } });
  }
  remove = (): Promise<void> =>
    this.safely(async () => {
      await call('DELETE /api/series/[id]', { params: { id: this.table!.id } });
      this.choose('');
      await this.fetch();
    });
  /** Says whether a take counts. @returns whether it was taken */
  async judge(take: string, counts: boolean, reason: string): Promise<boolean> {
    await this.safely(async () => {
      await call('POST /api/series/[id]/words', {
        params: { id: this.table!.id },
        body: { take, counts, reason },
      });
      await this.fetch();
    });
    return this.fault === null;
  }

  /** A value with as many digits as a thousandth of the largest of its column. */
  text(value: number | string | null, c: number): string {
    if (typeof value === 'string') return value;
    if (value === null || !Number.isFinite(value)) return '';
    const sizes = this.table!.rows.map(({ cells }) =>
      typeof cells[c].value === 'number' ? Math.abs(cells[c].value) : 0,
    );
    const largest = Math.max(...sizes);
    if (largest >= 1e6 || (largest > 0 && largest < 1e-3)) return readingText(value, { digits: 4 });
    return fixed(value, largest > 0 ? Math.max(0, 3 - Math.floor(Math.log10(largest))) : 0);
  }

  /** The table as it is pasted into a spreadsheet: rows, then the statistics of those that count. */
  async copy(): Promise<void> {
    const { columns, rows } = this.table!;
    const keys = ['n', 'mean', ...STATISTICS.map(([key]) => key)] as const;
    const lines = [
      [
        'take',
        ...columns.map((k) => (k.unit && k.unit !== '1' ? `${k.title}, ${k.unit}` : k.title)),
        'counts',
        'why',
      ],
      ...rows.map((r) => [
        r.name,
        ...r.cells.map((cell) => String(cell.value ?? '')),
        r.counts ? 'in' : 'out',
        r.reason,
      ]),
      ...keys.map((key) => [
        key,
        ...columns.map(({ statistics: s }) => (s && Number.isFinite(s[key]) ? String(s[key]) : '')),
      ]),
    ];
    await navigator.clipboard.writeText(lines.map((l) => l.join('\t')).join('\n'));
  }
}
