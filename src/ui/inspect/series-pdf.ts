import type { ReportView } from '$contract/report';
import type { SeriesTable } from '$contract/series';
import { call } from '../api';
import type { OutgoingFiles } from '../files/outgoing.svelte';

const means = (report: ReportView, series: string) =>
  report.pages.some((p) =>
    p.blocks.some((b) => b.kind === 'series' && [series, ''].includes(String(b.settings.series ?? ''))),
  );

/** Prints a series and saves the PDF: by the first report that has it on a page, else by a new one, which stays to be changed.
 *  @throws Fault */
export async function printSeries({ name, rows }: SeriesTable, files: OutgoingFiles): Promise<void> {
  const { reports } = await call('GET /api/reports');
  const report = reports.find((r) => means(r, name)) ?? (await made(name));
  const shown = rows.find((r) => r.counts) ?? rows.at(0);
  await files.make({ what: 'report', report: report.id, takes: shown ? [shown.take] : [], as: 'pdf' }, `${report.name}.pdf`); // prettier-ignore
}

/** A report of the series, from its template. */
async function made(name: string): Promise<ReportView> {
  const fresh = await call('POST /api/reports', { body: { template: 'series' } });
  const { id, version, about, now, ...body } = fresh;
  void [about, now];
  const pages = body.pages.map((p) => ({ ...p, blocks: p.blocks.map((b) => (b.kind === 'series' ? { ...b, settings: { ...b.settings, series: name } } : b)) })); // prettier-ignore
  return call('PUT /api/reports/[id]', { params: { id }, body: { version, body: { ...body, name: name.slice(0, 80), pages } } }); // prettier-ignore
}
