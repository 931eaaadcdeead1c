import { conflict } from '$core/errors';
import { EMPTY_FRAME, type Vec, type Wireframe } from '$core/wireframe/wireframe';
import { motionOf } from '$core/wireframe/motion';
import { directionNumber, nodeNumbers, writeFunction, writeShape, writeStructure } from '$core/formats/uff/structure'; // prettier-ignore
import type { FitResult } from '$core/modal/analysis';
import { sumOf } from '$core/modal/indicators';
import { halfSpectra } from '$core/modal/half-spectra';
import { windowDecay, windowed } from '$core/modal/correlations';
import { referenceOf, type SetView } from '$contract/modal';
import { getAnalysis, listAnalyses } from '$store/modal';
import { getWireframe } from '$store/wireframes';
import { jobOf, type App } from '../app';
import { viewAnalysis } from './analyses';
import { setOf } from './chain';
import type { CorrelationFile } from './tasks';

type ModalFormat = 'shapes' | 'functions' | 'json' | 'csv';

/** The wireframe of an analysis, or where there is none a point for each response in a row, so that shapes can be written all the same. */
function frameFor(app: App, analysis: string, set: Pick<SetView, 'facts'>): Wireframe {
  const { frame } = getAnalysis(app.db, analysis).body;
  if (frame) {
    try {
      return getWireframe(app.db, frame);
    } catch {
      // removed since
    }
  }
  const responses = set.facts?.responses ?? [];
  return {
    name: 'Responses in a row',
    ...EMPTY_FRAME,
    points: responses.map((r, k) => ({ name: r.name, part: '', at: [k, 0, 0] as Vec })),
    lines: responses.slice(1).map((r, k) => [responses[k].name, r.name] as const),
    sensors: responses.map((r) => ({ channel: r.id, point: r.name, direction: [0, 0, 1] as Vec })),
  };
}

const csv = (cell: string | number | null) =>
  cell === null ? '' : typeof cell === 'number' ? String(cell) : /[",\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell; // prettier-ignore

/** Modes or functions of a set as a file. @throws `conflict` where there are none yet, `not_found` */
export function modalFile(
  app: App,
  analysis: string,
  setId: string,
  format: ModalFormat,
): { name: string; text: string } {
  // prettier-ignore
  const view = viewAnalysis(app, analysis);
  const set = view.sets.find((s) => s.id === setId)!;
  setOf(app, analysis, setId);
  const stem = view.name.replace(/[^\w .-]/g, '').trim() || 'modes';
  if (format === 'functions') return { name: `${stem} functions.uff`, text: functions(app, analysis, set) };
  const { modes, facts } = set;
  if (!modes || !facts) throw conflict('modes', 'There are none yet.', 'Pick poles first.');
  if (format === 'json') {
    const { sentence, takes, correlate, fit } = set;
    const of = { analysis: view.name, takes, says: sentence, correlate, fit, responses: facts.responses, forces: facts.forces, references: facts.references }; // prettier-ignore
    return { name: `${stem}.json`, text: JSON.stringify({ ...of, modes: modes.modes, tones: modes.tones, met: modes.metAll }, null, 1) }; // prettier-ignore
  }
  if (format === 'csv') {
    const head = ['mode', 'frequency, Hz', '± Hz', 'damping, %', '± %', 'realness', 'called', ...facts.responses.flatMap((r) => [`${r.name}, real`, `${r.name}, imaginary`])]; // prettier-ignore
    const rows = modes.modes.map((m, k) => [
      k + 1,
      m.hz,
      m.expanded.hz,
      100 * m.damping,
      m.expanded.damping === null ? null : 100 * m.expanded.damping,
      m.realness,
      m.name,
      ...m.shape.re.flatMap((re, i) => [re, m.shape.im[i]]),
    ]);
    return { name: `${stem}.csv`, text: [head, ...rows].map((r) => r.map(csv).join(',')).join('\r\n') + '\r\n' }; // prettier-ignore
  }
  const frame = frameFor(app, analysis, set);
  const channels = facts.responses.map((r) => r.id);
  const shapes = modes.modes.map((m, k) => {
    const shape = { re: Float64Array.from(m.shape.re), im: Float64Array.from(m.shape.im) };
    return writeShape(frame, motionOf(frame, shape, channels), { hz: m.hz, damping: m.damping, name: m.name, number: k + 1 }); // prettier-ignore
  });
  return { name: `${stem}.unv`, text: writeStructure(frame) + shapes.join('') };
}

/** Half spectra of all pairs under their window, or their frequency responses. */
function functions(app: App, analysis: string, set: SetView): string {
  const { facts } = set;
  if (!facts || !set.correlationsId)
    throw conflict('functions', 'Nothing is correlated yet.', 'Wait until it is.');
  const file = app.modal.results.get<CorrelationFile>(set.correlationsId);
  const lines = halfSpectra(windowed(file.set, windowDecay(set.correlate.left / 100, file.set.lags, file.set.dtS))); // prettier-ignore
  const frame = frameFor(app, analysis, set);
  const numbers = nodeNumbers(frame.points);
  const place = (id: string, alone: number) => {
    const sensor = frame.sensors.find((s) => s.channel === id);
    return { node: numbers.get(sensor?.point ?? '') ?? alone, direction: sensor ? directionNumber(sensor.direction) : 0 }; // prettier-ignore
  };
  const n = lines.hz.length;
  const driven = facts.forces.length > 0;
  return facts.responses
    .flatMap((response, i) =>
      facts.references.map((r, q) => {
        const at = (i * lines.references + q) * n;
        const reference = referenceOf(facts, q)!;
        return writeFunction({
          kind: driven ? 4 : 3,
          name: driven ? `${response.name} to ${reference.name}` : `${response.name} with ${reference.name}, positive lags`, // prettier-ignore
          response: place(response.id, i + 1),
          reference: place(reference.id, driven ? 0 : r + 1),
          from: 0,
          step: lines.hz[1],
          unit: driven ? `${response.unit}/${reference.unit}` : `(${response.unit})2/Hz`,
          re: lines.re.subarray(at, at + n),
          im: lines.im.subarray(at, at + n),
        });
      }),
    )
    .join('');
}

/** A set of an analysis for a report: of the last one where none is named. */
export function modalFor(app: App, name: string, number: number) {
  const row = listAnalyses(app.db, jobOf(app).id).findLast((a) => name === '' || a.name === name);
  const view = row && viewAnalysis(app, row.id);
  const set = view?.sets[number - 1];
  if (!view || !set?.polesId || !set.correlationsId || !set.facts) return null;
  const [correlations, poles, left] = [set.correlationsId, set.polesId, set.correlate.left / 100];
  return {
    name: view.name,
    set,
    frame: frameFor(app, view.id, set),
    fit: () => app.modal.results.get<FitResult>(poles),
    sum: () => {
      const { set: own } = app.modal.results.get<CorrelationFile>(correlations);
      const lines = halfSpectra(windowed(own, windowDecay(left, own.lags, own.dtS)));
      return { hz: lines.hz, sum: sumOf(lines) };
    },
  };
}
