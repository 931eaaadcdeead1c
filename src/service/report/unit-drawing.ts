import { PAPER } from '$contract/palette';
import type { TerminalState, UnitDescription, UnitModule } from '$contract/unit';

export interface DrawnTerminal {
  id: string;
  /** Channel on it. */
  name: string;
  state: TerminalState;
}

const ROW = 16;
const HEAD = 26;
const COLUMN = 118;
const GAP = 8;
const PER_ROW = 4;

const escape = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');
const cut = (text: string, length: number) => (text.length > length ? `${text.slice(0, length - 1)}…` : text);
const COLOURS: Record<TerminalState, string> = {
  reading: PAPER.ink,
  free: PAPER.muted,
  trouble: PAPER.red,
  driven: PAPER.plum,
  lost: PAPER.muted,
};

/** The front of a unit as SVG, made from its description: modules, terminals, what is on each and how it stands.
 *  @returns SVG text and its size in px */
export function unitDrawing(
  unit: UnitDescription,
  terminals: Map<string, DrawnTerminal>,
): { svg: string; width: number; height: number } {
  const rows: UnitModule[][] = [];
  for (let k = 0; k < unit.modules.length; k += PER_ROW) rows.push(unit.modules.slice(k, k + PER_ROW));
  const width = PER_ROW * (COLUMN + GAP) - GAP + 2;
  let y = 1;
  let body = '';
  for (const row of rows) {
    const tall = HEAD + Math.max(...row.map((m) => m.terminals.length)) * ROW + 6;
    row.forEach((module, k) => {
      const x = 1 + k * (COLUMN + GAP);
      body += `<rect x="${x}" y="${y}" width="${COLUMN}" height="${tall}" rx="5" fill="none" stroke="${PAPER.ink}" stroke-width="0.8"/>`;
      body += `<text x="${x + 7}" y="${y + 15}" font-size="10" font-weight="bold" fill="${PAPER.ink}">${escape(cut(module.id, 12))}</text>`;
      body += `<text x="${x + COLUMN - 7}" y="${y + 15}" font-size="8" text-anchor="end" fill="${PAPER.muted}">${escape(cut(module.title, 18))}</text>`;
      module.terminals.forEach((t, i) => {
        const at = terminals.get(t.id);
        const state = at?.state ?? 'free';
        const cy = y + HEAD + i * ROW + 5;
        const label = at?.name || t.label || '';
        body += terminalMark(x + 13, cy, state);
        body += `<text x="${x + 23}" y="${cy + 3}" font-size="8" fill="${PAPER.ink}">${escape(cut(t.id.slice(t.id.indexOf('/') + 1), label ? 9 : 16))}</text>`;
        if (label)
          body += `<text x="${x + COLUMN - 6}" y="${cy + 3}" font-size="7.5" text-anchor="end" fill="${COLOURS[state]}">${escape(cut(label, 17))}</text>`;
      });
    });
    y += tall + GAP;
  }
  const height = Math.max(20, y - GAP + 1);
  return {
    svg: `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}">${body}</svg>`,
    width,
    height,
  };
}

/** A clamp: filled where something reads, empty where it is free, a diamond where something is wrong, an arrow where it is driven. */
function terminalMark(x: number, y: number, state: TerminalState): string {
  const colour = COLOURS[state];
  switch (state) {
    case 'reading':
      return `<circle cx="${x}" cy="${y}" r="4" fill="${colour}"/>`;
    case 'trouble':
      return `<path d="M${x} ${y - 5}L${x + 5} ${y}L${x} ${y + 5}L${x - 5} ${y}Z" fill="none" stroke="${colour}" stroke-width="1.4"/>`;
    case 'driven':
      return `<path d="M${x - 5} ${y}H${x + 3}M${x} ${y - 4}L${x + 4} ${y}L${x} ${y + 4}" fill="none" stroke="${colour}" stroke-width="1.4"/>`;
    case 'lost':
      return `<circle cx="${x}" cy="${y}" r="4" fill="none" stroke="${colour}" stroke-width="1" stroke-dasharray="2 1.5"/>`;
    default:
      return `<circle cx="${x}" cy="${y}" r="4" fill="none" stroke="${colour}" stroke-width="1"/>`;
  }
}
