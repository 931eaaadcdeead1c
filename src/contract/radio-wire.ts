import type { Waterfall } from '$core/radio/waterfall';
import { headed, unheaded } from './headed';
import type { HeardBand } from './radio';

interface HeardHead extends Omit<HeardBand, 'lines' | 'highest' | 'density'> {
  lines: { id: string; sinceMs: number; pictures: number; there: boolean }[];
  density: { columns: number; rows: number; transforms: number } | null;
}

/** A picture as bytes: its head, levels as float32, the density as bytes. */
export function encodeHeard(heard: HeardBand): Uint8Array<ArrayBuffer> {
  const { lines, highest, density, ...rest } = heard;
  const head: HeardHead = {
    ...rest,
    lines: lines.map(({ levels, ...l }) => ({ ...l, there: levels !== null })),
    density: density && { columns: density.columns, rows: density.rows, transforms: density.transforms },
  };
  return headed(head, [
    ...lines.flatMap((l) => l.levels ?? []),
    highest,
    ...(density ? [density.cells] : []),
  ]);
}

export function decodeHeard(bytes: Uint8Array): HeardBand {
  const { head, buffer, at: start } = unheaded<HeardHead>(bytes);
  let at = start;
  const take = () => {
    const part = new Float32Array(buffer, at, head.plan.lines);
    at += part.byteLength;
    return part;
  };
  const lines = head.lines.map(({ there, ...l }) => ({ ...l, levels: there ? take() : null }));
  const highest = take();
  const { density } = head;
  return {
    ...head,
    lines,
    highest,
    density: density && { ...density, cells: new Uint8Array(buffer, at, density.columns * density.rows) },
  };
}

interface PastHead {
  lines: number;
  spans: [number, number][];
}

/** A waterfall as bytes: its head, then its rows in 1/100 dB. */
export function encodePast(waterfall: Waterfall): Uint8Array<ArrayBuffer> {
  const rows = Array.from({ length: waterfall.length }, (_, k) => waterfall.row(k));
  const head: PastHead = { lines: waterfall.lines, spans: rows.map(({ fromS, toS }) => [fromS, toS]) };
  return headed(
    head,
    rows.map((r) => r.levels),
  );
}

/** Reads what `encodePast` wrote. @returns rows, oldest first */
export function decodePast(bytes: Uint8Array): {
  lines: number;
  rows: { fromS: number; toS: number; levels: Int16Array }[];
} {
  const { head, buffer, at } = unheaded<PastHead>(bytes);
  const { lines } = head;
  const rows = head.spans.map(([fromS, toS], k) => ({
    fromS,
    toS,
    levels: new Int16Array(buffer, at + k * lines * 2, lines),
  }));
  return { lines, rows };
}
