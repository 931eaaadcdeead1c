import { fixed } from '$core/readings';
import type { Column } from '$core/figures/table';
import { drawTable } from '$core/pages/table';
import { lacking, type BlockPainter } from './block';

const words = (label: string): Column => ({ label, numeric: false });
const number = (label: string): Column => ({ label, numeric: true });
const TOP = 16;

/** Noise figure and gain of a device, point by point; one that was left out says why. */
export const noise: BlockPainter<'noise'> = (sheet, { device, most }, page) => {
  const found = page.noise(device);
  if (!found) return lacking(sheet, device ? `No noise figure of ${device} was measured.` : 'No noise figure was measured.'); // prettier-ignore
  const about = `${found.device}, ${new Date(found.atMs).toISOString().slice(0, 10)}, source ${found.source.serial}, room ${fixed(found.roomK, 1)} K, by the Y-factor, ± at 95 %`;
  sheet.fitted(0, 9, about, { size: 8, colour: sheet.ink.muted }, sheet.width);
  const cell = (v: number | null, decimals = 2) =>
    v === null || !Number.isFinite(v) ? '–' : fixed(v, decimals);
  drawTable(
    sheet,
    [number('MHz'), number('Noise figure, dB'), number('±'), number('Gain, dB'), number('±'), words('')],
    found.points
      .slice(0, most)
      .map((p) => [
        fixed(p.hz / 1e6, Number.isInteger(p.hz / 1e6) ? 0 : 2),
        cell(p.figureDb),
        cell(p.figureDb === null ? null : p.figureExpanded),
        cell(p.gainDb),
        cell(p.gainDb === null ? null : p.gainExpanded),
        p.findings.map((f) => f.says).join('; '),
      ]),
    { top: TOP, size: 7.5 },
  );
};

/** Suspects of the last look, farthest over first. */
export const emissions: BlockPainter<'emissions'> = (sheet, { device, most }, page) => {
  const run = page.emissions(device);
  if (!run)
    return lacking(
      sheet,
      device ? `Nobody looked for emissions of ${device}.` : 'Nobody looked for emissions.',
    );
  const about = `${run.device}, look ${run.number}, ${new Date(run.atMs).toISOString().slice(0, 10)}, ${run.limits ? run.limits.name : 'no limits'}: a look before the laboratory, not its verdict`;
  sheet.fitted(0, 9, about, { size: 8, colour: sheet.ink.muted }, sheet.width);
  const cell = (v: number | null | undefined) => (v === null || v === undefined ? '–' : fixed(v, 1));
  const order = [...run.suspects].sort((a, b) => Number(a.ambient) - Number(b.ambient) || a.room - b.room);
  drawTable(
    sheet,
    [
      number('MHz'),
      number('Peak'),
      number('Quasi-peak'),
      number('Average'),
      number('Limit'),
      words(''),
      words(''),
    ],
    order
      .slice(0, most)
      .map((s) => [
        fixed((s.measured?.hz ?? s.hz) / 1e6, 4),
        cell(s.measured?.peak ?? s.level),
        cell(s.measured?.quasiPeak),
        cell(s.measured?.average),
        cell(s.limit),
        s.ambient
          ? 'ambient'
          : s.room < 0
            ? `over by ${fixed(-s.room, 1)} dB`
            : `${fixed(s.room, 1)} dB to spare`,
        s.note,
      ]),
    { top: TOP, size: 7.5 },
  );
};
