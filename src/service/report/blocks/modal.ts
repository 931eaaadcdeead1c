import { axisScale } from '$core/figures/scale';
import type { Column } from '$core/figures/table';
import { Vectors, type Ink } from '$core/figures/vectors';
import { macMatrix } from '$core/modal/shape';
import { drawTable } from '$core/pages/table';
import type { Sheet } from '$core/pages/sheet';
import { fixed } from '$core/readings';
import { displaced, motionOf, reachOf } from '$core/wireframe/motion';
import { askew } from '$core/wireframe/projection';
import { placesOf, type Wireframe } from '$core/wireframe/wireframe';
import type { ModeView } from '$contract/modal';
import { lacking, type BlockPainter, type ModalFound, type PageContext } from './block';

const words = (label: string): Column => ({ label, numeric: false });
const number = (label: string): Column => ({ label, numeric: true });

/** The analysis that a block means with its modes, or what it says instead. @param modes whether some are needed */
function found(sheet: Sheet, name: string, set: number, page: PageContext): ModalFound | null {
  const modal = page.modal(name, set);
  if (!modal)
    lacking(sheet, name ? `There is no modal analysis “${name}” with a set ${set}.` : 'There is no modal analysis yet.'); // prettier-ignore
  else if (!modal.set.modes?.modes.length) lacking(sheet, `${modal.name} has no modes yet.`);
  else return modal;
  return null;
}
const about = (sheet: Sheet, { name, set }: ModalFound) =>
  sheet.fitted(0, 9, `${name} · from ${set.takes.join(', ')}`, { size: 8, colour: sheet.ink.muted }, sheet.width); // prettier-ignore
const called = (m: ModeView, k: number) => `${k + 1} · ${fixed(m.hz, 2)} Hz${m.name ? ` · ${m.name}` : ''}`;

/** Frequencies and dampings with their ±, realness and what each is seen as; then how they were found. */
export const modes: BlockPainter<'modes'> = (sheet, { analysis, set, sentence }, page) => {
  const modal = found(sheet, analysis, set, page);
  if (!modal) return;
  about(sheet, modal);
  const { modes: all, tones } = modal.set.modes!;
  const cell = (v: number | null, decimals: number) => (v === null ? '–' : fixed(v, decimals));
  const rows = all.map((m, k) => [
    String(k + 1),
    m.name + (m.out ? ' (left out)' : ''),
    fixed(m.hz, 3),
    cell(m.expanded.hz, 3),
    fixed(100 * m.damping, 2),
    cell(m.expanded.damping === null ? null : 100 * m.expanded.damping, 2),
    fixed(m.realness, 2),
  ]);
  drawTable(
    sheet,
    [words('Mode'), words('Seen as'), number('Hz'), number('±'), number('Damping, %'), number('±'), number('Realness')], // prettier-ignore
    rows,
    { top: 16, size: 7.5 },
  );
  const ROW = 7.5 * 1.75;
  const bottom = 16 + ROW * (rows.length + 1);
  const more = [
    ...(tones.length ? [`Kept apart as harmonics: ${tones.map((t) => `${fixed(t.hz, 2)} Hz${t.multiple ? ` (${t.multiple} times the speed)` : ''}`).join(', ')}.`] : []), // prettier-ignore
    `Put together again they meet what was measured to ${fixed(100 * modal.set.modes!.metAll, 1)} %. ± at about 95 %, from the spread over orders${modal.set.modes!.overBlocks ? ' and blocks of the span' : ''}.`, // prettier-ignore
    ...(sentence === 'shown' ? [modal.set.sentence] : []),
  ];
  sheet.flow(0, bottom + 4, [{ text: more.join('\n'), face: { size: 7.5, colour: sheet.ink.muted } }], sheet.width); // prettier-ignore
};

/** Poles over order, the sum behind: marks fill as poles come to rest. */
export const stabilization: BlockPainter<'stabilization'> = (sheet, { analysis, set }, page) => {
  const modal = found(sheet, analysis, set, page);
  if (!modal) return;
  const { orders } = modal.fit();
  const { hz, sum } = modal.sum();
  const { ink } = sheet;
  const v = new Vectors(ink);
  const { from, to } = modal.set.fit;
  const wide = to - from;
  const [left, right, top, bottom] = [26, sheet.width - 6, 14, sheet.height - 16];
  if (bottom - top < 20 || right - left < 40) return lacking(sheet, 'The box is too small for the diagram.');
  const x = axisScale({ label: 'Frequency', unit: 'Hz', scale: 'linear' }, [Math.max(0, from - 0.1 * wide), to + 0.1 * wide], [left, right], 8); // prettier-ignore
  const highest = Math.max(4, ...orders.map((o) => o.order));
  const y = axisScale({ label: 'Order', unit: '', scale: 'linear' }, [0, highest * 1.06], [bottom, top], 5);
  v.fill(x.at(from), top, x.at(to) - x.at(from), bottom - top, ink.trace(0), 0.06);
  for (const t of x.ticks) {
    v.line(t.at, top, t.at, bottom);
    v.text(t.at, bottom + 9, t.text, { anchor: 'middle', mono: true, size: 6.5 });
  }
  for (const t of y.ticks) v.text(left - 4, t.at + 2.2, t.text, { anchor: 'end', mono: true, size: 6.5 });
  const shown = [...hz.keys()].filter((k) => k > 0 && hz[k] >= x.low && hz[k] <= x.high);
  const level = shown.map((k) => Math.log10(Math.max(sum[k], 1e-300)));
  const [low, high] = [Math.min(...level), Math.max(...level)];
  const curve = shown.map((k, i) => `${i ? 'L' : 'M'}${x.at(hz[k]).toFixed(2)},${(bottom - 2 - (0.72 * (bottom - top) * (level[i] - low)) / (high - low || 1)).toFixed(2)}`); // prettier-ignore
  v.path(curve.join(''), { fill: 'none', stroke: ink.ink, 'stroke-width': 0.7 });
  for (const { order, poles } of orders)
    for (const pole of poles) mark(v, x.at(pole.hz), y.at(order), pole.rest, ink);
  modal.set.picks.forEach((p, k) => {
    v.path(ring(x.at(p.hz), y.at(p.order), 3.6), { fill: 'none', stroke: ink.ink, 'stroke-width': 0.8 });
    v.text(x.at(p.hz) + 5, y.at(p.order) + 2.4, String(k + 1), { colour: ink.ink, bold: true, size: 7 });
  });
  for (const edge of [from, to]) v.line(x.at(edge), top, x.at(edge), bottom, ink.trace(0), 0.9);
  v.text(right, bottom + 9, 'Hz', { anchor: 'end', size: 6.5 });
  v.text(0, 8, 'poles over order · new, ○ frequency, ◒ damping, ● shape at rest; behind: sum of all cross powers', { size: 7 }); // prettier-ignore
  sheet.place(v.svg(sheet.width, sheet.height), 0, 0);
};
const ring = (x: number, y: number, r: number) =>
  `M${(x - r).toFixed(2)},${y.toFixed(2)}a${r},${r} 0 1 0 ${2 * r},0a${r},${r} 0 1 0 ${-2 * r},0`;
function mark(v: Vectors, x: number, y: number, rest: number, ink: Ink): void {
  if (rest === 0) return v.fill(x - 0.4, y - 0.4, 0.8, 0.8, ink.muted, 0.8);
  const colour = ink.trace(0);
  v.path(ring(x, y, 1.6), { fill: rest === 3 ? colour : 'white', stroke: colour, 'stroke-width': 0.6 });
  if (rest === 2) v.path(`M${(x - 1.6).toFixed(2)},${y.toFixed(2)}a1.6,1.6 0 0 0 3.2,0z`, { fill: colour });
}

/** Each mode at its farthest on the wireframe, which is dashed behind. */
export const shapes: BlockPainter<'shapes'> = (sheet, { analysis, set, most }, page) => {
  const modal = found(sheet, analysis, set, page);
  if (!modal) return;
  const all = modal.set.modes!.modes.slice(0, most);
  const channels = modal.set.facts!.responses.map((r) => r.id);
  // As many columns as make the boxes nearly square.
  const columns = Math.max(1, Math.min(all.length, Math.round(Math.sqrt((all.length * sheet.width) / Math.max(1, sheet.height))))); // prettier-ignore
  const rows = Math.ceil(all.length / columns);
  const [w, h] = [sheet.width / columns, sheet.height / rows];
  if (w < 30 || h < 30) return lacking(sheet, 'The box is too small for the shapes.');
  all.forEach((m, k) => {
    const [x, y] = [(k % columns) * w, Math.floor(k / columns) * h];
    sheet.fitted(x, y + 8, called(m, k), { size: 7.5, colour: sheet.ink.ink }, w - 4);
    sheet.place(shapeSvg(sheet.ink, modal.frame, m, channels, w - 6, h - 14), x, y + 12);
  });
};
function shapeSvg(
  ink: Ink,
  frame: Wireframe,
  mode: ModeView,
  channels: string[],
  width: number,
  height: number,
): string {
  const v = new Vectors(ink);
  const map = placesOf(frame);
  const places = frame.points.map((p) => map.get(p.name)!);
  const index = new Map(frame.points.map((p, i) => [p.name, i]));
  const shape = { re: Float64Array.from(mode.shape.re), im: Float64Array.from(mode.shape.im) };
  const motion = motionOf(frame, shape, channels);
  const rest = Float64Array.from(places.flat());
  const extent = [0, 1, 2].map((k) => Math.max(...places.map((p) => p[k])) - Math.min(...places.map((p) => p[k]))); // prettier-ignore
  const scale = (0.16 * Math.max(1e-9, ...extent)) / Math.max(1e-300, ...reachOf(motion));
  const [still, moved] = [askew(rest), askew(displaced(places, motion, 0, scale))];
  const both = [still, moved];
  const low = [Math.min(...both.flatMap((b) => [...b.x])), Math.min(...both.flatMap((b) => [...b.y]))];
  const high = [Math.max(...both.flatMap((b) => [...b.x])), Math.max(...both.flatMap((b) => [...b.y]))];
  const fit = Math.min(width / Math.max(1e-9, high[0] - low[0]), height / Math.max(1e-9, high[1] - low[1]));
  const at = (p: typeof still, i: number) =>
    [
      width / 2 + (p.x[i] - (low[0] + high[0]) / 2) * fit,
      height / 2 + (p.y[i] - (low[1] + high[1]) / 2) * fit,
    ] as const;
  const draw = (p: typeof still, colour: string, wide: number, dash = '') => {
    for (const [a, b] of frame.lines) {
      const [i, k] = [index.get(a), index.get(b)];
      if (i !== undefined && k !== undefined) v.line(...at(p, i), ...at(p, k), colour, wide, dash);
    }
  };
  draw(still, ink.line, 0.5, '2 2');
  draw(moved, ink.trace(0), 1);
  for (const s of frame.sensors) {
    const i = index.get(s.point);
    if (i === undefined) continue;
    const [x, y] = at(moved, i);
    v.path(ring(x, y, 1.4), { fill: 'white', stroke: ink.trace(0), 'stroke-width': 0.6 });
  }
  return v.svg(width, height);
}

/** How alike the shapes are, a square for each pair with its number. */
export const alike: BlockPainter<'alike'> = (sheet, { analysis, set }, page) => {
  const modal = found(sheet, analysis, set, page);
  if (!modal) return;
  const all = modal.set.modes!.modes;
  const values = macMatrix(
    ...([0, 0].map(() => all.map((m) => ({ re: Float64Array.from(m.shape.re), im: Float64Array.from(m.shape.im) }))) as [never[], never[]]), // prettier-ignore
  );
  const names = Math.min(120, sheet.width / 2.5);
  const side = Math.min((sheet.height - 12) / all.length, (sheet.width - names) / all.length, 24);
  if (side < 6) return lacking(sheet, 'The box is too small for the squares.');
  const [from, to] = sheet.ink.heat;
  const mixed = (share: number) => `#${[1, 3, 5].map((k) => Math.round(parseInt(from.slice(k, k + 2), 16) * (1 - share) + parseInt(to.slice(k, k + 2), 16) * share).toString(16).padStart(2, '0')).join('')}`; // prettier-ignore
  values.forEach((row, i) => {
    sheet.fitted(0, i * side + side / 2 + 2.5, called(all[i], i), { size: 7, colour: sheet.ink.ink }, names - 4); // prettier-ignore
    row.forEach((value, j) => {
      sheet.box(names + j * side, i * side, side - 0.8, side - 0.8, mixed(Math.min(1, value)), null);
      if (side >= 13)
        sheet.words(names + j * side + side / 2, i * side + side / 2 + 2, value.toFixed(2), { size: 5.5, colour: value > 0.5 ? '#ffffff' : sheet.ink.muted, mono: true }, 'middle'); // prettier-ignore
    });
  });
  all.forEach((_, j) => sheet.words(names + j * side + side / 2, all.length * side + 8, String(j + 1), { size: 7, colour: sheet.ink.muted, mono: true }, 'middle')); // prettier-ignore
};
