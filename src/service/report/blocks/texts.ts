import { readWords, type Paragraph } from '$core/pages/words';
import type { Sheet } from '$core/pages/sheet';
import type { Face, Piece } from '$core/pages/text';
import { studyKind } from '$core/studies/registry';
import { PAPER } from '$contract/palette';
import { lacking, type BlockPainter } from './block';

const BULLET = 9;

/** Paragraphs from the top down. @returns where the next would begin */
function paragraphs(sheet: Sheet, list: readonly Paragraph[], size: number, top = 0): number {
  let y = top;
  let left = 0;
  for (const [k, { kind, runs }] of list.entries()) {
    const large = kind === 'heading' ? size * 1.7 : kind === 'subheading' ? size * 1.22 : size;
    if (k > 0 && kind !== 'text' && kind !== 'item') y += size * 0.6;
    // Runs that look alike share their face: they are set as one.
    const faces = new Map<string, Face>();
    const pieces = runs.map(
      ({ text, raised, live, bold = kind === 'heading' || kind === 'subheading' }): Piece => {
        const look = `${bold} ${raised} ${live === 'unknown'}`;
        const colour = live === 'unknown' ? { colour: sheet.ink.tones.warning } : {};
        const face = faces.get(look) ?? { size: large, bold, ...(raised && { raised }), ...colour };
        faces.set(look, face);
        return { text, face };
      },
    );
    const indent = kind === 'item' ? BULLET : 0;
    if (left > 0) left++;
    else {
      const put = sheet.flow(indent, y, pieces.length ? pieces : [{ text: '', face: { size: large } }], sheet.width - indent); // prettier-ignore
      if (kind === 'item' && put.bottom > y) sheet.words(1, y + large * 0.98, '•', { size: large, colour: sheet.ink.muted }); // prettier-ignore
      left = put.left;
      y = put.bottom;
    }
  }
  if (left > 0) sheet.faults.push(`${left} ${left === 1 ? 'line does' : 'lines do'} not fit: make it higher or the words smaller.`); // prettier-ignore
  return y;
}

export const words: BlockPainter<'words'> = (sheet, settings, page) => {
  const list = readWords(settings.text, page.value);
  const unknown = [...new Set(list.flatMap((p) => p.runs).filter((r) => r.live === 'unknown'))];
  if (unknown.length)
    sheet.faults.push(`There is no value ${unknown.map((r) => `“${r.text.slice(0, -1)}”`).join(', ')} here.`);
  if (settings.text.trim() === '') return;
  paragraphs(sheet, list, settings.size);
};

export const facts: BlockPainter<'facts'> = (sheet, settings, page) => {
  const { take } = page;
  if (!take) return lacking(sheet, 'No take is chosen.');
  const pairs = [
    ...Object.entries(take.head.facts),
    ['Channels', String(take.signals.length)],
    ['Take', `no. ${take.head.number}`],
  ];
  const wide = sheet.width / settings.columns;
  const HIGH = 28;
  const rows = Math.ceil(pairs.length / settings.columns);
  const room = Math.max(0, Math.floor((sheet.height + 1) / HIGH));
  if (rows > room) sheet.faults.push(`${pairs.length - room * settings.columns} of ${pairs.length} facts do not fit: make it higher.`); // prettier-ignore
  sheet.rule(0, 0, sheet.width, 0);
  for (const [k, [name, value]] of pairs.entries()) {
    const [column, row] = [k % settings.columns, Math.floor(k / settings.columns)];
    if (row >= room) break;
    const [x, y] = [column * wide, row * HIGH];
    sheet.fitted(x, y + 11, name, { size: 7.5, colour: sheet.ink.muted }, wide - 8);
    sheet.fitted(x, y + 22.5, value || '–', { size: 10, bold: true }, wide - 8);
    if (column === 0) sheet.rule(0, y + HIGH, sheet.width, y + HIGH);
  }
};

export const method: BlockPainter<'method'> = (sheet, settings, page) => {
  const { take } = page;
  if (!take) return lacking(sheet, 'No take is chosen.');
  const plain = (text: string): Paragraph => ({ kind: 'text', runs: [{ text }] });
  const list = [plain(take.head.planText)];
  const study = settings.study ? page.study(settings.study) : null;
  if (settings.study && !study) sheet.faults.push(`${take.head.name} has no study “${settings.study}” with a result.`); // prettier-ignore
  if (study) {
    list.push(plain(study.view.says));
    for (const { says, source } of studyKind(study.view.kind).method)
      list.push({ kind: 'item', runs: [{ text: `${says} (${source})` }] });
  }
  paragraphs(sheet, list, 9);
};

export const rule: BlockPainter<'rule'> = (sheet, { weight, colour }) => {
  const ink = { grey: PAPER.line, ink: PAPER.ink, plum: PAPER.plum }[colour];
  if (sheet.height > sheet.width) sheet.rule(sheet.width / 2, 0, sheet.width / 2, sheet.height, ink, weight);
  else sheet.rule(0, sheet.height / 2, sheet.width, sheet.height / 2, ink, weight);
};

export const page: BlockPainter<'page'> = (sheet, _settings, { page, pages }) =>
  sheet.words(sheet.width, Math.min(sheet.height, 9), `${page} / ${pages}`, { size: 8, mono: true, colour: sheet.ink.muted }, 'end'); // prettier-ignore
