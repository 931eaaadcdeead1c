import { contentOf, svgOf } from '$core/pages/sheet';
import { save as saveBlob } from '../files/save';
import type { Page } from '$contract/report';
import type { ReportDraft } from './draft.svelte';

const save = (content: Uint8Array<ArrayBuffer> | string, name: string, type: string) =>
  saveBlob(new Blob([content], { type }), name);

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

/** From points to dots of a picture, by dots an inch. */
const DOTS = 200 / 72;
const faces = import.meta.glob<string>(
  [
    '/node_modules/@fontsource-variable/commissioner/files/commissioner-{latin,latin-ext,greek}-wght-normal.woff2',
    '/node_modules/@fontsource-variable/source-serif-4/files/source-serif-4-{latin,latin-ext,greek}-wght-normal.woff2',
    '/node_modules/@fontsource-variable/archivo-narrow/files/archivo-narrow-{latin,latin-ext}-wght-normal.woff2',
    '/node_modules/@fontsource-variable/jetbrains-mono/files/jetbrains-mono-{latin,greek}-wght-normal.woff2',
  ],
  { query: '?url', import: 'default' },
);

const FAMILIES = [
  ['jetbrains-mono', 'JetBrains Mono Variable'],
  ['commissioner', 'Commissioner Variable'],
  ['source-serif-4', 'Source Serif 4 Variable'],
  ['archivo-narrow', 'Archivo Narrow Variable'],
] as const;

/** A drawing as a picture of 200 dots an inch, on white (PNG, ISO/IEC 15948). Pictures are drawn without the page’s fonts: they are put into it. */
export async function savePicture(svg: string, name: string): Promise<void> {
  const rules = await Promise.all(
    Object.entries(faces).map(async ([path, url]) => {
      const family = FAMILIES.find(([part]) => path.includes(part))![1];
      if (!svg.includes(family)) return '';
      const font = await fetch(await url()).then((r) => r.blob());
      return `@font-face { font-family: '${family}'; font-weight: 100 900; src: url(${await asData(font)}); }`;
    }),
  );
  const whole = svg.replace('>', `><style>${rules.join('')}</style>`);
  const [width, height] = /width="([\d.]+)" height="([\d.]+)"/.exec(svg)!.slice(1).map((v) => Math.ceil(Number(v) * DOTS)); // prettier-ignore
  const image = new Image(width, height);
  image.src = URL.createObjectURL(new Blob([whole], { type: 'image/svg+xml' }));
  try {
    await image.decode();
    const canvas = Object.assign(document.createElement('canvas'), { width, height });
    const context = canvas.getContext('2d')!;
    context.fillStyle = 'white';
    context.fillRect(0, 0, width, height);
    context.drawImage(image, 0, 0, width, height);
    const png = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
    save(new Uint8Array(await png!.arrayBuffer()), `${name.replace(/[/\\]/g, '-')}.png`, 'image/png');
  } finally {
    URL.revokeObjectURL(image.src);
  }
}
const asData = (blob: Blob) =>
  new Promise<string>((done, fail) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result as string);
    reader.onerror = () => fail(reader.error ?? new Error('The font cannot be read.'));
    reader.readAsDataURL(blob);
  });
