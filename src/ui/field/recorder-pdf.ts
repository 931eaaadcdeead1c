import type { RecorderView } from '$contract/field';
import { call } from '../api';
import type { OutgoingFiles } from '../files/outgoing.svelte';

const TEMPLATE = 'recorder';
const NAME = 'Pocket recorder';

/** The report of a recorder as a PDF, in one action: by the report of that name, else by a new one, which stays to be changed. @throws Fault */
export async function printRecorder({ takeId, state }: RecorderView, files: OutgoingFiles): Promise<void> {
  if (!takeId) return;
  const { reports } = await call('GET /api/reports');
  const report = reports.find((r) => r.name === NAME && r.filter === null && r.takes.length === 0) ?? (await call('POST /api/reports', { body: { template: TEMPLATE } })); // prettier-ignore
  await files.make({ what: 'report', report: report.id, takes: [takeId], as: 'pdf' }, `${state.name}.pdf`);
}
