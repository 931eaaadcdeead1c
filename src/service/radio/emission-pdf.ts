import type { Content, TableCell } from 'pdfmake/interfaces';
import Papa from 'papaparse';
import { hertzText } from '$core/radio/words';
import { columnsOf, limitCorners, logTicks, tickText } from '$core/emissions/picture';
import { fixed } from '$core/readings';
import { sentenceText, NO_NAMES } from '$core/sentence/sentence';
import { PAPER } from '$contract/palette';
import { EMISSIONS, RANGE, type EmissionLine, type EmissionRun } from '$contract/radio-emissions';
import { jobOf, type App } from '../app';
import { footer, makePdf, PAGE, stamp } from '../report/document';
import { correctedLines, readRun } from './emission-runs';

/** The sentence that no look goes without. */
const BEFORE = 'This is a look before the laboratory, not its verdict.';

const SIZE = { width: 499, height: 230, left: 34, right: 6, top: 8, bottom: 22 };

/** What of suspects goes to a sheet: numbers as they were read, the nearest limit and the room. @throws `not_found` */
export function emissionCsv(app: App, id: string): string {
  const { run } = readRun(app.db, id);
  const value = (v: number | null | undefined) => (v === null || v === undefined ? '' : Number(v.toFixed(2)));
  const unitAt = (hz: number) =>
    run.unit[
      Math.max(
        0,
        run.settings.ranges.findIndex((r) => hz >= r.from * 1e6 && hz <= r.to * 1e6),
      )
    ];
  return (
    Papa.unparse(
      {
        fields: ['number', 'frequency (MHz)', 'unit', 'line', 'peak', 'quasi-peak', 'average', 'limit', 'limit for', 'room (dB)', 'ambient', 'note'], // prettier-ignore
        data: run.suspects.map((s) => [
          s.id,
          (s.measured?.hz ?? s.hz) / 1e6,
          unitAt(s.hz),
          value(s.level),
          value(s.measured?.peak),
          value(s.measured?.quasiPeak),
          value(s.measured?.average),
          value(s.limit),
          s.limitOf,
          value(s.room),
          s.ambient ? 'yes' : 'no',
          s.note,
        ]),
      },
      { escapeFormulae: true },
    ) + '\r\n'
  );
}

/** A look as a report: how it was set up, its line with limits, suspects, pictures, and how well levels are known. @throws `not_found` */
export function emissionPdf(app: App, id: string): Promise<Buffer> {
  const { run, raw } = readRun(app.db, id);
  const lines = correctedLines(run, raw);
  const known = Math.max(...run.expanded.filter(Number.isFinite));
  const cell = (v: number | null | undefined): TableCell => ({
    text: v === null || v === undefined ? '—' : fixed(v, 1),
    style: 'cell',
    alignment: 'right',
  });
  const head = (...names: string[]): TableCell[] => names.map((text) => ({ text, style: 'head' }));
  const tables: Content[] = run.corrections.map((c) => ({
    text: `${c.name}: ${c.kind}, ${c.points.length} points from ${hertzText(c.points[0].hz)} to ${hertzText(c.points[c.points.length - 1].hz)}, ± ${c.expanded} dB${c.measured ? `, measured ${c.measured}` : ''}.`,
  }));
  const suspects: TableCell[][] = run.suspects.map((s) => [
    { text: String(s.id), style: 'cell' },
    { text: fixed((s.measured?.hz ?? s.hz) / 1e6, 4), style: 'cell', alignment: 'right' },
    cell(s.measured?.peak ?? s.level),
    cell(s.measured?.quasiPeak),
    cell(s.measured?.average),
    cell(s.limit),
    { text: s.limitOf, style: 'cell' },
    {
      text: s.room < 0 ? `over by ${fixed(-s.room, 1)}` : `${fixed(s.room, 1)} to spare`,
      style: 'cell',
      color: s.room < 0 && !s.ambient ? PAPER.red : PAPER.ink,
    },
    { text: [s.ambient ? 'ambient' : '', s.measured ? '' : 'line only', s.note].filter(Boolean).join('; '), fontSize: 8 }, // prettier-ignore
  ]);
  return makePdf({
    ...PAGE,
    footer: footer(new Date()),
    info: { title: `Emissions of ${run.device}` },
    content: [
      { text: `Emissions of ${run.device}`, fontSize: 18, bold: true },
      {
        text: `Look ${run.number}${run.ambient ? ', without the device' : ''}${run.partly ? ', ended before its end' : ''} · ${jobOf(app).name} · ${stamp(new Date(run.atMs))} · ${run.receiver}, ${fixed(run.tookS, 0)} s`,
        style: 'muted',
      },
      { text: BEFORE, bold: true, margin: [0, 8, 0, 8] },
      { text: sentenceText(EMISSIONS, run.settings, NO_NAMES), style: 'sentence' },
      { svg: drawing(run, lines), width: SIZE.width },
      {
        text: `${[...new Set(run.unit)].join(', ')}; levels are known to ± ${Number.isFinite(known) ? fixed(known, 1) : '—'} dB at 95 %: the receiver’s level and flatness, and the tables.`,
        style: 'label',
      },
      {
        text: `Suspects: ${run.suspects.length}${run.more ? ` and ${run.more} more` : ''}`,
        style: 'heading',
      },
      suspects.length
        ? {
            table: {
              headerRows: 1,
              widths: [16, 58, 34, 34, 34, 34, 48, 62, '*'],
              body: [
                head('', 'MHz', 'peak', 'quasi-p.', 'average', 'limit', 'for', 'room, dB', 'remark'),
                ...suspects,
              ],
            },
            layout: 'lightHorizontalLines',
          }
        : { text: run.limits ? 'Nothing comes near the limits.' : 'No limits were chosen.', style: 'muted' },
      { text: 'How it was measured', style: 'heading' },
      ...run.settings.ranges.map((r, k): Content => ({
        text: `${k + 1}. ${sentenceText(RANGE, r, NO_NAMES)}`,
      })),
      { text: run.limits ? `Limits: ${run.limits.name}.` : 'No limits.', margin: [0, 4, 0, 0] },
      ...tables,
      ...(run.overloaded.length
        ? [{ text: `Overloaded in range ${run.overloaded.map((k) => k + 1).join(', ')}: what was read there is doubtful.`, color: PAPER.red }] // prettier-ignore
        : []),
      ...(run.pictures.length ? [{ text: 'The arrangement', style: 'heading' } as Content] : []),
      ...run.pictures.map((image): Content => ({ image, fit: [SIZE.width, 300], margin: [0, 4, 0, 8] })),
    ],
  });
}

/** The line over a logarithmic axis, with its limits drawn like ground in a section. */
function drawing(run: EmissionRun, lines: readonly EmissionLine[]): string {
  const { width, height, left, right, top, bottom } = SIZE;
  const from = Math.min(...run.settings.ranges.map((r) => r.from)) * 1e6;
  const to = Math.max(...run.settings.ranges.map((r) => r.to)) * 1e6;
  const x = (hz: number) => left + (Math.log(hz / from) / Math.log(to / from)) * (width - left - right);
  const corners = (run.limits?.lines ?? []).map((l) => limitCorners(l, from, to));
  const columns = lines.map((l) => columnsOf(l, from, to, 480));
  const all = [...columns.flatMap((c) => [...c]), ...corners.flat().map((p) => p.level)].filter(
    Number.isFinite,
  );
  const low = Math.floor(Math.min(...all, 0) / 20) * 20;
  const high = Math.ceil((Math.max(...all, 20) + 5) / 20) * 20;
  const y = (v: number) => top + ((high - v) / (high - low)) * (height - top - bottom);
  const parts: string[] = [];
  const text = (s: string, px: number, py: number, anchor: string) =>
    parts.push(`<text x="${px.toFixed(1)}" y="${py.toFixed(1)}" font-family="Mono" font-size="7.5" fill="${PAPER.muted}" text-anchor="${anchor}">${s}</text>`); // prettier-ignore
  for (let v = low; v <= high; v += 20) {
    parts.push(`<path d="M${left} ${y(v).toFixed(1)}H${width - right}" stroke="${PAPER.line}" stroke-width="0.5"/>`); // prettier-ignore
    text(String(v).replace('-', '−'), left - 5, y(v) + 2.5, 'end');
  }
  const ticks = logTicks(from, to, 3).filter((t) => t.major);
  let free = -Infinity;
  for (const { hz } of ticks) {
    parts.push(`<path d="M${x(hz).toFixed(1)} ${top}V${height - bottom}" stroke="${PAPER.line}" stroke-width="0.5"/>`); // prettier-ignore
    if (x(hz) < free) continue;
    text(tickText(hz), x(hz), height - bottom + 10, 'middle');
    free = x(hz) + 26;
  }
  text('MHz', width - right, height - 3, 'end');
  for (const c of columns) {
    let path = '';
    for (let k = 0; k < c.length / 2; k++) {
      if (!Number.isFinite(c[2 * k])) continue;
      const px = (left + ((k + 0.5) / (c.length / 2)) * (width - left - right)).toFixed(1);
      path += `${path ? 'L' : 'M'}${px} ${y(c[2 * k]).toFixed(1)}L${px} ${y(c[2 * k + 1]).toFixed(1)}`;
    }
    if (path) parts.push(`<path d="${path}" fill="none" stroke="${PAPER.plum}" stroke-width="0.7"/>`);
  }
  for (const points of corners) {
    const line = points.map((p) => `${x(p.hz).toFixed(1)} ${y(p.level).toFixed(1)}`);
    if (line.length < 2) continue;
    parts.push(`<path d="M${line.join('L')}" fill="none" stroke="${PAPER.ink}" stroke-width="1"/>`);
    // The forbidden side is hatched.
    for (let px = x(points[0].hz); px < x(points[points.length - 1].hz); px += 7) {
      const hz = from * Math.exp(((px - left) / (width - left - right)) * Math.log(to / from));
      const k = points.findIndex((p, i) => i > 0 && p.hz >= hz);
      if (k < 1) continue;
      const [a, b] = [points[k - 1], points[k]];
      const level =
        a.hz === b.hz
          ? b.level
          : a.level + (Math.log(hz / a.hz) / Math.log(b.hz / a.hz)) * (b.level - a.level);
      parts.push(`<path d="M${px.toFixed(1)} ${y(level).toFixed(1)}l4 -5" stroke="${PAPER.muted}" stroke-width="0.5"/>`); // prettier-ignore
    }
  }
  for (const s of run.suspects.slice(0, 40)) {
    const [px, py] = [x(s.hz), y(s.level)];
    const colour = s.room < 0 && !s.ambient ? PAPER.red : PAPER.muted;
    parts.push(`<path d="M${px.toFixed(1)} ${py.toFixed(1)}v-6" stroke="${colour}" stroke-width="0.8"/><circle cx="${px.toFixed(1)}" cy="${(py - 10).toFixed(1)}" r="4.5" fill="${colour}"/><text x="${px.toFixed(1)}" y="${(py - 7.8).toFixed(1)}" font-family="Words" font-size="6" fill="#ffffff" text-anchor="middle">${s.id}</text>`); // prettier-ignore
  }
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">${parts.join('')}</svg>`;
}
