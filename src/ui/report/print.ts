import { contentOf, svgOf } from '$core/pages/sheet';
import type { Page } from '$contract/report';
import { send } from '../api';
import type { ReportDraft } from './draft.svelte';

interface Printed {
  name: string;
  pdf: Uint8Array<ArrayBuffer>;
}

async function printed(report: string, takes: readonly string[], signal: AbortSignal): Promise<Printed> {
  const response = await send(
    'GET /api/reports/[id]/pdf',
    { params: { id: report }, query: { takes } },
    { signal },
  );
  const named = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get('content-disposition') ?? '');
  return {
    name: named ? decodeURIComponent(named[1]) : 'report.pdf',
    pdf: new Uint8Array(await response.arrayBuffer()),
  };
}

function save(content: Uint8Array<ArrayBuffer> | string, name: string, type: string): void {
  const link = Object.assign(document.createElement('a'), {
    href: URL.createObjectURL(new Blob([content], { type })),
    download: name,
  });
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** Prints a report over some takes and saves the PDF. @throws Fault, or the abort */
export async function printOne(report: string, takes: readonly string[], signal: AbortSignal): Promise<void> {
  const { name, pdf } = await printed(report, takes, signal);
  save(pdf, name, 'application/pdf');
}

/** Saves a report over some takes as slides. @throws Fault, or the abort */
export async function saveSlides(
  report: string,
  takes: readonly string[],
  signal: AbortSignal,
): Promise<void> {
  const response = await send('GET /api/reports/[id]/slides', { params: { id: report }, query: { takes } }, { signal }); // prettier-ignore
  const named = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get('content-disposition') ?? '');
  save(new Uint8Array(await response.arrayBuffer()), named ? decodeURIComponent(named[1]) : 'report.pptx', response.headers.get('content-type')!); // prettier-ignore
}

const POINTS_A_MM = 72 / 25.4;
/** A page as one drawing, points. @param size of the page, mm */
export function pageSvg(page: Page, size: readonly [number, number], draft: ReportDraft): string {
  const at = (mm: number) => (mm * POINTS_A_MM).toFixed(2);
  const blocks = page.blocks.map((b) => `<g transform="translate(${at(b.x)},${at(b.y)})">${contentOf(draft.drawn.get(b.id)?.svg ?? '<svg></svg>')}</g>`); // prettier-ignore
  const frame = contentOf(draft.frames.get(page.id) ?? '<svg></svg>');
  return svgOf(frame + blocks.join(''), size[0] * POINTS_A_MM, size[1] * POINTS_A_MM);
}
/** Saves a drawing as it is seen: words stay words, in the faces that they are set in. */
export const saveDrawing = (svg: string, name: string): void =>
  save(svg, `${name.replace(/[/\\]/g, '-')}.svg`, 'image/svg+xml');

/** Prints a report over each of some takes and saves all PDFs in one ZIP file; two takes of one name have files of two names.
 *  @param told how many are done @throws Fault, or the abort: nothing is saved then */
export async function printEach(
  report: { id: string; name: string },
  takes: readonly string[],
  signal: AbortSignal,
  told: (done: number) => void,
): Promise<void> {
  const files: Record<string, Uint8Array> = {};
  for (const [k, take] of takes.entries()) {
    const { name, pdf } = await printed(report.id, [take], signal);
    files[freeName(name, files)] = pdf;
    told(k + 1);
  }
  const { zipSync } = await import('fflate');
  // PDFs are packed already.
  save(zipSync(files, { level: 0 }) as Uint8Array<ArrayBuffer>, `${report.name}.zip`, 'application/zip');
}

/** A name that no other file has yet. */
export function freeName(name: string, taken: Record<string, unknown>): string {
  const safe = name.replace(/[/\\]/g, '-');
  if (!(safe in taken)) return safe;
  for (let n = 2; ; n++) {
    const next = safe.replace(/(\.\w+)?$/, ` (${n})$1`);
    if (!(next in taken)) return next;
  }
}
