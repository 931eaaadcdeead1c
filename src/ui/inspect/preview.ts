import type { FormatKind, Source } from '$core/formats/format';
import { FarrierError } from '$core/errors';
import { rateText } from '$core/samples/sampled';
import type { FaultText } from '../api';

/** Bytes of a text file by which it is understood; others are looked at whole. */
const TEXT_BYTES = 256 << 10;
/** Larger ones are not looked at before they are brought in. */
const WHOLE_BYTES = 60 << 20;
const ROWS = 6;
const COLUMNS = 12;

/** What a file would become. */
export interface Preview {
  columns: { name: string; unit: string; rate: string; values: number[] }[];
  /** Channels that are not among the columns shown. */
  more: number;
  start: string | null;
  facts: [string, string][];
}

/** Reads the beginning of a file as it would be brought in. @returns what it would become, a fault in words, or null for a file that is too large to be looked at */
export async function previewOf(
  file: File,
  format: FormatKind,
  options: Record<string, unknown>,
): Promise<{ preview: Preview } | { fault: FaultText } | null> {
  const text = format.kind === 'csv';
  if (!text && file.size > WHOLE_BYTES) return null;
  try {
    await format.prepare?.();
    const bytes = new Uint8Array(await (text ? file.slice(0, TEXT_BYTES) : file).arrayBuffer());
    const { signals, start, facts } = format.reading!.read(sourceOf(file.name, wholeLines(bytes, file.size, text)), options as never); // prettier-ignore
    const columns = signals.slice(0, COLUMNS).map((s) => ({ name: s.name, unit: s.unit, rate: rateText(s), values: [...s.read(0, Math.min(ROWS, s.length))].slice(0, ROWS) })); // prettier-ignore
    return { preview: { columns, more: Math.max(0, signals.length - COLUMNS), start, facts } };
  } catch (error) {
    if (error instanceof FarrierError) return { fault: error.text };
    return { fault: { what: error instanceof Error ? error.message : String(error) } };
  }
}

const sourceOf = (name: string, bytes: Uint8Array): Source => ({
  name,
  length: bytes.length,
  read: (at, count) => bytes.subarray(at, at + count),
});

/** Of the beginning of a text the lines that are there to their end. */
function wholeLines(bytes: Uint8Array, size: number, text: boolean): Uint8Array {
  if (!text || bytes.length === size) return bytes;
  const end = bytes.lastIndexOf(10);
  // Two bytes a character: the line ends behind both.
  return end < 0 ? bytes : bytes.subarray(0, bytes[end + 1] === 0 ? end + 2 : end + 1);
}

const KEY = (kind: string) => `farrier-read-${kind}`;
/** How the last file of a format was read in this browser. */
export function remembered(kind: string): Record<string, unknown> {
  try {
    const held = JSON.parse(localStorage.getItem(KEY(kind)) ?? '{}') as unknown;
    return held && typeof held === 'object' ? (held as Record<string, unknown>) : {};
  } catch {
    return {};
  }
}
export const remember = (kind: string, options: Record<string, unknown>): void =>
  localStorage.setItem(KEY(kind), JSON.stringify(options));
