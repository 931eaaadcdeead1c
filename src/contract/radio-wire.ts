import type { Waterfall } from '$core/radio/waterfall';
import type { HeardBand } from './radio';

interface HeardHead extends Omit<HeardBand, 'lines' | 'highest' | 'density'> {
  lines: { id: string; sinceMs: number; pictures: number; there: boolean }[];
  density: { columns: number; rows: number; transforms: number } | null;
}

/** A picture as bytes: u32 length of its head, the head as JSON, padded to four; then levels as float32 and the density as bytes. */
export function encodeHeard(heard: HeardBand): Uint8Array<ArrayBuffer> {
  const { lines, highest, density, ...rest } = heard;
  const head: HeardHead = {
    ...rest,
    lines: lines.map(({ levels, ...l }) => ({ ...l, there: levels !== null })),
    density: density && { columns: density.columns, rows: density.rows, transforms: density.transforms },
  };
  const text = new TextEncoder().encode(JSON.stringify(head));
  const start = (4 + text.length + 3) & ~3;
  const parts = [...lines.flatMap((l) => l.levels ?? []), highest];
  const bytes = start + parts.reduce((a, p) => a + p.byteLength, 0) + (density?.cells.length ?? 0);
  const out = new Uint8Array(bytes);
  new DataView(out.buffer).setUint32(0, text.length, true);
  out.set(text, 4);
  let at = start;
  for (const part of parts) {
    out.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
    at += part.byteLength;
  }
  if (density) out.set(density.cells, at);
  return out;
}

export function decodeHeard(bytes: Uint8Array): HeardBand {
  const own = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  const length = new DataView(own.buffer, own.byteOffset).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(own.subarray(4, 4 + length))) as HeardHead;
  let at = own.byteOffset + ((4 + length + 3) & ~3);
  const take = () => {
    const part = new Float32Array(own.buffer, at, head.plan.lines);
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
    density: density && { ...density, cells: new Uint8Array(own.buffer, at, density.columns * density.rows) },
  };
}

/** A waterfall as bytes: u32 length of its head, the head as JSON, padded to four; then its rows in 1/100 dB. */
export function encodePast(waterfall: Waterfall): Uint8Array<ArrayBuffer> {
  const rows = Array.from({ length: waterfall.length }, (_, k) => waterfall.row(k));
  const text = new TextEncoder().encode(
    JSON.stringify({ lines: waterfall.lines, spans: rows.map(({ fromS, toS }) => [fromS, toS]) }),
  );
  const start = (4 + text.length + 3) & ~3;
  const out = new Uint8Array(start + rows.length * waterfall.lines * 2);
  new DataView(out.buffer).setUint32(0, text.length, true);
  out.set(text, 4);
  rows.forEach(({ levels }, k) =>
    out.set(
      new Uint8Array(levels.buffer, levels.byteOffset, levels.byteLength),
      start + k * levels.byteLength,
    ),
  );
  return out;
}

/** Reads what `encodePast` wrote. @returns rows, oldest first */
export function decodePast(bytes: Uint8Array): {
  lines: number;
  rows: { fromS: number; toS: number; levels: Int16Array }[];
} {
  const own = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  const length = new DataView(own.buffer, own.byteOffset).getUint32(0, true);
  const { lines, spans } = JSON.parse(new TextDecoder().decode(own.subarray(4, 4 + length))) as {
    lines: number;
    spans: [number, number][];
  };
  const start = own.byteOffset + ((4 + length + 3) & ~3);
  const rows = spans.map(([fromS, toS], k) => ({
    fromS,
    toS,
    levels: new Int16Array(own.buffer, start + k * lines * 2, lines),
  }));
  return { lines, rows };
}
