import { unzipSync } from 'fflate';
import type { FormatKind, Recording, Source } from '$core/formats/format';
import { bytesOf } from '$core/formats/zipped';
import { sampledOf, type Sampled } from '$core/samples/sampled';

/** A file in memory. */
export const sourceOf = (bytes: Uint8Array, name: string): Source => ({
  name,
  length: bytes.length,
  read: (at, count) => bytes.subarray(at, at + Math.max(0, count)),
});

export const signal = (name: string, values: ArrayLike<number>, more: Partial<Sampled> = {}): Sampled =>
  sampledOf(
    {
      id: name,
      name,
      quantity: 'force',
      unit: 'kN',
      rate: { num: 2000, den: 1 },
      startNs: 0,
      width: 1,
      ...more,
    },
    Float32Array.from(values),
  );

export const recording = (signals: Sampled[], more: Partial<Recording> = {}): Recording => ({
  name: 'Ebb run',
  start: '2027-03-14T14:03:07.250Z',
  facts: [['Blade set', 'B7']],
  signals,
  ...more,
});

export const all = (s: Sampled): number[] => [...s.read(0, s.length)];

/** A recording as the bytes of its file, or of the archive of its files. */
export async function written(
  format: FormatKind,
  of: Recording,
  options: object = {},
): Promise<Uint8Array<ArrayBuffer>> {
  await format.prepare?.();
  const pieces = [
    ...bytesOf(format.writing!.write(of, { ...format.writing!.defaults, ...options } as never)),
  ];
  const out = new Uint8Array(pieces.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

export const filesIn = (archive: Uint8Array): Record<string, Uint8Array> => unzipSync(archive);

export const readBack = (
  format: FormatKind,
  bytes: Uint8Array,
  options: object = {},
  name = `a.${format.extensions[0]}`,
): Recording =>
  format.reading!.read(sourceOf(bytes, name), { ...format.reading!.defaults, ...options } as never);
