import { readFileSync } from 'node:fs';
import { escapeXml } from '$core/figures/vectors';
import { svgOf } from '$core/pages/sheet';
import { OTHER_LETTERS, TYPEFACE_FILES, type FontFiles } from '../letters';
import type { Typeface } from '$contract/report';
import type { DrawnPage } from './drawn-page';
import reader from './reader.js?raw';

/** Letters that most pages have; others are taken from the machine that shows the page. */
const facesOf = ({ words, bold, mono }: FontFiles) => [['Words', 400, words], ['Words', 700, bold], ['Mono', 400, mono]] as const; // prettier-ignore

const STYLE = `
body { margin: 0; background: #F2EFE9; font: 14px/1.4 Words, sans-serif; color: #26211D; }
main { display: flex; flex-direction: column; align-items: center; gap: 18px; padding: 18px; }
section { position: relative; background: #FFF; outline: 1px solid #DCD5C9; width: min(100%, var(--w)); scroll-margin-top: 18px; }
section > svg { display: block; width: 100%; height: auto; }
#reading { position: absolute; pointer-events: none; background: #26211D; color: #FBFAF7; padding: 4px 8px; border-radius: 4px; font-size: 12px; white-space: pre; z-index: 2; }
#line { position: absolute; width: 1px; background: #7A2E4D; pointer-events: none; z-index: 1; }
a:hover rect, a:focus rect { fill: #7A2E4D; fill-opacity: 0.08; }
footer { text-align: center; color: #756B61; font-size: 12px; padding-bottom: 18px; }
@media print { body { background: none; } main { gap: 0; padding: 0; display: block; } section { outline: 0; break-after: page; } footer { display: none; } }
`;

/** A report as one file that stands alone (HTML, SVG 2): its pages as they print, fonts and pictures within, charts that can be read by pointer and by
 *  arrow keys. Nothing is asked of a network. @param about of whom and when it was made */
export async function* writeHtml(
  pages: AsyncIterable<DrawnPage>,
  { title, about, face }: { title: string; about: string; face: Typeface },
): AsyncGenerator<string> {
  const faces = facesOf(TYPEFACE_FILES[face]).map(([family, weight, file]) => `@font-face { font-family: ${family}; font-weight: ${weight}; src: url(data:font/ttf;base64,${readFileSync(file, 'base64')}); }`); // prettier-ignore
  yield `<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; font-src data:; img-src data:"><meta name="generator" content="Farrier"><title>${escapeXml(title)}</title><style>${faces.join('\n')}${STYLE}</style></head><body><main>\n`;
  const seen = new Set<string>();
  for await (const page of pages) {
    const inside = page.blocks.map(({ x, y, content, alt, part, links, anchors }) => {
      const names = anchors.filter((a) => !seen.has(a) && seen.add(a)).map((a) => `<g id="${idOf(a)}"/>`);
      const leads = links.map((l) => `<a href="#${idOf(l.to)}"><rect x="${l.x.toFixed(1)}" y="${l.y.toFixed(1)}" width="${l.w.toFixed(1)}" height="${l.h.toFixed(1)}" fill-opacity="0"/></a>`); // prettier-ignore
      const role = part === 'drawing' ? ` role="img" aria-label="${escapeXml(alt)}"` : '';
      return `<g transform="translate(${x.toFixed(2)},${y.toFixed(2)})"${role}>${names.join('')}${content}${leads.join('')}</g>`;
    });
    const readable = page.blocks.flatMap((b) => b.readable);
    // The pixel of the screen is 3/4 of a point (CSS): as wide as on paper.
    yield `<section aria-label="${escapeXml(page.title)}" style="--w:${((page.width * 4) / 3).toFixed(0)}px" data-width="${page.width.toFixed(2)}"${readable.length ? ' tabindex="0"' : ''}>${svgOf(page.frame + inside.join(''), page.width, page.height).replaceAll(`font-family="${OTHER_LETTERS}"`, 'font-family="sans-serif"')}${readable.length ? `<script type="application/json">${JSON.stringify(readable).replaceAll('<', '\\u003c')}</script>` : ''}</section>\n`; // prettier-ignore
  }
  yield `</main><footer>${escapeXml(about)}</footer><script>${reader}</script></body></html>\n`;
}
const idOf = (anchor: string) => anchor.replace(/[^\w-]/g, '-');
