import type { Figure } from '../figures/figure';
import type { Cell, Column } from '../figures/table';
import { escapeXml } from '../figures/vectors';
import type { Ink, Plot } from '../figures/vectors';
import { cutTo, setLines, sizeOf, type Face, type Measure, type Piece, type SetLine } from './text';

/** What is known of the faces that a page is set in. */
export interface Faces {
  measure: Measure;
  /** A text as runs of one font each: what the page’s font lacks is set in another one. */
  runs(text: string, mono: boolean): { text: string; font?: string }[];
}

/** From one line of words to the next, in their size. */
const LEAD = 1.35;
/** From the top of a line to its foot, in its size. */
const RISE = 0.98;

/** A thing on a page, where it stands on its sheet, points. */
export type Thing =
  | { thing: 'text'; x: number; foot: number; text: string; face: Face; width: number }
  | { thing: 'table'; top: number; columns: readonly Column[]; rows: readonly (readonly Cell[])[]; size: number }
  | { thing: 'figures'; top: number; bottom: number; figures: readonly Figure[]; ends: readonly [number, number] | null; apart: boolean }
  | { thing: 'picture'; href: string; x: number; y: number; width: number; height: number }; // prettier-ignore

/** A figure within a drawing that was placed, so much larger than it was made. */
export interface PlacedPlot extends Plot {
  x: number;
  y: number;
  large: number;
}
/** A part of a sheet that leads to whatever has a name, points. */
export interface Link {
  x: number;
  y: number;
  w: number;
  h: number;
  to: string;
}

/** A part of a page that is drawn on: vectors with words as words (SVG 1.1), in points from its left upper corner. */
export class Sheet {
  private readonly parts: string[] = [];
  /** What is not as it should be. */
  readonly faults: string[] = [];
  /** The same as things, for papers whose charts and tables can be edited. */
  readonly things: Thing[] = [];
  /** Figures where they were drawn, for papers on which they can be read. */
  readonly plots: PlacedPlot[] = [];
  /** What leads elsewhere, and under which names this can be reached. */
  readonly links: Link[] = [];
  readonly anchors: string[] = [];

  constructor(
    readonly width: number,
    readonly height: number,
    readonly ink: Ink,
    private readonly faces: Faces,
  ) {}

  get measure(): Measure {
    return this.faces.measure;
  }

  /** One text, its foot at y. */
  words(x: number, y: number, text: string, face: Face, anchor: 'start' | 'middle' | 'end' = 'start'): void {
    if (text === '') return;
    const { colour = this.ink.ink, bold, mono, raised } = face;
    const at = y + (raised === 'above' ? -0.34 : raised === 'below' ? 0.16 : 0) * face.size;
    const own = mono ? this.ink.mono : this.ink.words;
    // Placed by what it measures, so that it stands alike wherever it is drawn.
    const width = this.measure(text, face);
    const left = anchor === 'start' ? x : x - width / (anchor === 'end' ? 1 : 2);
    this.things.push({ thing: 'text', x: left, foot: at, text, face, width });
    const runs = this.faces.runs(text, mono ?? false);
    const inside =
      runs.length === 1 && !runs[0].font
        ? escapeXml(runs[0].text)
        : runs
            .map(
              (r) =>
                `<tspan${r.font ? ` font-family="${escapeXml(r.font)}"` : ''}>${escapeXml(r.text)}</tspan>`,
            ) // prettier-ignore
            .join('');
    this.parts.push(
      `<text x="${left.toFixed(2)}" y="${at.toFixed(2)}" font-family="${escapeXml(own)}" font-size="${sizeOf(face).toFixed(2)}"${bold ? ' font-weight="bold"' : ''} fill="${colour}">${inside}</text>`,
    );
  }
  /** One text that is cut where there is no room for it. */
  fitted(
    x: number,
    y: number,
    text: string,
    face: Face,
    width: number,
    anchor: 'start' | 'end' = 'start',
  ): void {
    this.words(x, y, cutTo(text, face, width, this.measure), face, anchor);
  }

  /** Words in lines, from `top` down. @returns where the next line would begin; lines that do not fit are left out and counted */
  flow(x: number, top: number, pieces: readonly Piece[], width: number): { bottom: number; left: number } {
    const lines = setLines(pieces, width, this.measure);
    let y = top;
    for (const [k, line] of lines.entries()) {
      const next = y + line.size * LEAD;
      if (next > this.height + 1) return { bottom: y, left: lines.length - k };
      this.line(x, y + line.size * RISE, line);
      y = next;
    }
    return { bottom: y, left: 0 };
  }
  private line(x: number, foot: number, { pieces }: SetLine): void {
    for (const { text, face, x: at } of pieces) this.words(x + at, foot, text, face);
  }

  rule(x1: number, y1: number, x2: number, y2: number, colour = this.ink.line, width = 0.5): void {
    this.parts.push(
      `<line x1="${x1.toFixed(2)}" y1="${y1.toFixed(2)}" x2="${x2.toFixed(2)}" y2="${y2.toFixed(2)}" stroke="${colour}" stroke-width="${width}"/>`,
    );
  }
  box(x: number, y: number, width: number, height: number, fill: string | null, stroke: string | null): void {
    this.parts.push(
      `<rect x="${x.toFixed(2)}" y="${y.toFixed(2)}" width="${width.toFixed(2)}" height="${height.toFixed(2)}" fill="${fill ?? 'none'}"${stroke ? ` stroke="${stroke}" stroke-width="0.7"` : ''}/>`,
    );
  }
  /** A drawing that was made by itself, at a place. @param large how much larger than it was made @param plots of it */
  place(svg: string, x: number, y: number, large = 1, plots: readonly Plot[] = []): void {
    this.plots.push(...plots.map((plot) => ({ ...plot, x, y, large })));
    const scale = large === 1 ? '' : ` scale(${Number(large.toFixed(4))})`;
    this.parts.push(
      `<g transform="translate(${x.toFixed(2)},${y.toFixed(2)})${scale}">${contentOf(svg)}</g>`,
    );
  }

  /** A picture in its own proportion. @param href a data URI */
  picture(href: string, x: number, y: number, width: number, height: number): void {
    this.things.push({ thing: 'picture', href, x, y, width, height });
    this.parts.push(
      `<image x="${x.toFixed(2)}" y="${y.toFixed(2)}" width="${width.toFixed(2)}" height="${height.toFixed(2)}" href="${href}" xlink:href="${href}"/>`,
    );
  }

  /** All that was drawn, without what stands around it. */
  get content(): string {
    return this.parts.join('');
  }
}

/** What a drawing holds, without what stands around it. */
export const contentOf = (svg: string): string => svg.slice(svg.indexOf('>') + 1, svg.lastIndexOf('</svg>'));

/** A whole drawing. @param size in points */
export const svgOf = (content: string, width: number, height: number): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="${width.toFixed(2)}" height="${height.toFixed(2)}" viewBox="0 0 ${width.toFixed(2)} ${height.toFixed(2)}">${content}</svg>`;
