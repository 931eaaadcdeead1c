import type { Cell, Column } from '$core/figures/table';
import { rowsOf } from '$core/figures/table';
import { clockText, plainReading } from '$core/readings';
import { drawTable } from '$core/pages/table';
import { rateText } from '$core/samples/sampled';
import { resultTables, type Finding } from '$core/studies/study';
import { lacking, trailAnchor, wanted, type BlockPainter } from './block';

const words = (label: string): Column => ({ label, numeric: false });
const SIZE = 9;
const ROW = 15;

/** A finding as it is read: its value with its unit. */
const valueText = ({ value, unit }: Finding) =>
  `${plainReading(value)}${unit === '1' || unit === '' ? '' : ` ${unit}`}`;

export const findings: BlockPainter<'findings'> = (sheet, settings, page) => {
  const study = wanted(sheet, settings.study, page);
  if (!study) return;
  const all = study.result.findings.slice(0, settings.most);
  const room = Math.max(0, Math.floor((sheet.height + 1) / ROW));
  if (all.length > room) sheet.faults.push(`${all.length - room} of ${all.length} findings do not fit: make it higher.`); // prettier-ignore
  for (const [k, finding] of all.slice(0, room).entries()) {
    const foot = (k + 1) * ROW - 4.5;
    const face = { size: SIZE, mono: true };
    const own = valueText(finding);
    const taken = sheet.measure(own, face);
    sheet.words(sheet.width, foot, own, face, 'end');
    const label = { size: SIZE };
    const left = sheet.width - taken - 10;
    const name = Math.min(left, sheet.measure(finding.label, label));
    sheet.fitted(0, foot, finding.label, label, left);
    if (finding.note && left - name > 30)
      sheet.fitted(name + 10, foot, finding.note, { size: SIZE - 1, colour: sheet.ink.muted }, left - name - 10); // prettier-ignore
    sheet.rule(0, (k + 1) * ROW, sheet.width, (k + 1) * ROW);
    // To where the number comes from, if that is on a page.
    sheet.links.push({ x: 0, y: k * ROW, w: sheet.width, h: ROW, to: trailAnchor(study.view.id) });
  }
};

export const table: BlockPainter<'table'> = (sheet, settings, page) => {
  const study = wanted(sheet, settings.study, page);
  if (!study) return;
  const tables = resultTables(study.result);
  const found = settings.table ? tables.find((t) => t.title === settings.table) : tables[0];
  if (!found)
    return lacking(sheet, settings.table ? `${study.view.name} has no table “${settings.table}”.` : `${study.view.name} has no table.`); // prettier-ignore
  drawTable(sheet, found.columns, rowsOf(found, 0, settings.most));
  if (found.length > settings.most && sheet.faults.length === 0) sheet.words(0, sheet.height, `${found.length - settings.most} more rows in the table`, { size: 7.5, colour: sheet.ink.muted }); // prettier-ignore
};

export const channels: BlockPainter<'channels'> = (sheet, settings, page) => {
  const { take } = page;
  if (!take) return lacking(sheet, 'No take is chosen.');
  const { found, lacking: gone } = settings.channels.length
    ? page.channels(settings.channels)
    : { found: take.signals, lacking: [] };
  if (gone.length) sheet.faults.push(`${take.head.name} has no ${gone.join(', ')}.`);
  const beside = {
    'unit and rate': { column: words('Unit, rate'), of: (s: (typeof found)[number]) => `${s.unit}, ${rateText(s)} S/s` }, // prettier-ignore
    'sensor and settings': { column: words('Sensor and settings at the time'), of: (s: (typeof found)[number]) => s.sentence }, // prettier-ignore
    calibration: { column: words('Calibration'), of: (s: (typeof found)[number]) => s.calibration },
  };
  const chosen = settings.with.map((name) => beside[name]);
  drawTable(
    sheet,
    [words('Channel'), ...chosen.map((c) => c.column)],
    found.map((s) => [s.name, ...chosen.map((c) => c.of(s))]),
    { size: 7.5 },
  );
};

export const takes: BlockPainter<'takes'> = (sheet, settings, page) => {
  if (page.takes.length === 0) return lacking(sheet, 'No take is chosen.');
  const found = page.takes.map((take) => ({ take, study: page.studyOf(take.id, settings.study) }));
  const labels = new Map<string, string>();
  for (const { study } of found)
    for (const f of study?.findings ?? []) if (labels.size < 8 || labels.has(f.label)) labels.set(f.label, labels.get(f.label) ?? f.unit); // prettier-ignore
  const columns: Column[] = [
    words('Take'),
    ...settings.facts.map(words),
    ...[...labels].map(([label, unit]): Column => ({
      label,
      unit: unit === '1' ? undefined : unit,
      numeric: true,
    })),
  ];
  const rows = found.map(({ take, study }): Cell[] => [
    take.name,
    ...settings.facts.map((name) => page.factsOf(take.id)[name] ?? '–'),
    ...[...labels].map(([label, unit]) => {
      const own = study?.findings.find((f) => f.label === label);
      return own && own.unit === unit ? own.value : null;
    }),
  ]);
  drawTable(sheet, columns, rows, { most: settings.most });
};

export const notes: BlockPainter<'notes'> = (sheet, settings, page) => {
  const { take } = page;
  if (!take) return lacking(sheet, 'No take is chosen.');
  const told = take.notes.filter((note) => note.kind !== 'armed').slice(0, settings.most);
  if (told.length === 0) return void sheet.flow(0, 0, [{ text: 'Nothing was noted during the take.', face: { size: SIZE, colour: sheet.ink.muted } }], sheet.width); // prettier-ignore
  const time = { size: 8, mono: true, colour: sheet.ink.muted };
  const wide = Math.max(...told.map((note) => sheet.measure(clockText(note.atS), time))) + 8;
  let top = 0;
  for (const [k, note] of told.entries()) {
    if (top + SIZE * 1.35 > sheet.height + 1) {
      sheet.faults.push(`${told.length - k} of ${told.length} lines do not fit: make it higher.`);
      return;
    }
    sheet.words(0, top + SIZE * 0.98, clockText(note.atS), time);
    top = sheet.flow(wide, top, [{ text: note.says, face: { size: SIZE } }], sheet.width - wide).bottom + 1;
  }
};
