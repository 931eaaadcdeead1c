import { fromHundredths } from '$core/field/messages';
import { recorderModel } from '$core/field/recorder/plan';
import type { RecorderReadings } from '$contract/field';
import type { RecorderRow } from '$store/recorders';
import type { App } from '../app';
import { canRead, takeWindow, viewTake } from '../takes';

const STRETCHES = 1200;

/** What was fetched of a recorder, to be drawn. A take that is gone has nothing. */
export function readingsOf(app: App, { takeId, state }: Pick<RecorderRow, 'takeId' | 'state'>): RecorderReadings {
  const finite = (values: ArrayLike<number>) => Array.from(values, (v) => (Number.isFinite(v) ? v : null));
  const width = recorderModel(state.model)?.measures.length ?? 1;
  const waited = state.waiting.values.filter((_, i) => i % width === 0).map(fromHundredths);
  const stepMs = (state.setup?.intervalS ?? 0) * 1000;
  const waiting = waited.length && stepMs ? { fromMs: state.waiting.toMs - (waited.length - 1) * stepMs, stepMs, values: finite(waited) } : null; // prettier-ignore
  if (!takeId || !canRead(app, takeId)) return { curves: [], settledMs: null, marks: [], waiting };
  const take = viewTake(app, takeId);
  const startMs = Number(BigInt(take.head.startNs) / 1_000_000n);
  const parts = takeWindow(app, takeId, take.signals.map((s) => s.id), 0, take.durationS, STRETCHES); // prettier-ignore
  return {
    curves: parts.map((p, k) => ({ name: take.signals[k].name, unit: take.signals[k].unit, fromMs: startMs + (p.fromS + p.stepS / 2) * 1000, stepMs: p.stepS * 1000, low: finite(p.min), high: finite(p.max) })), // prettier-ignore
    settledMs: state.startedMs === null || !state.setup?.settleS ? null : state.startedMs + state.setup.settleS * 1000,
    marks: take.notes.filter((n) => n.kind === 'mark').map((n) => startMs + n.atS * 1000),
    waiting,
  };
} // prettier-ignore
