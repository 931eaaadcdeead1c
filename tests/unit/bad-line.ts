import { FrameReader, type Frame } from '$core/field/frames';
import type { Line } from '$service/field/link';

export interface Ills {
  /** Share of pieces that are lost, and of bytes that are flipped. */
  lose?: number;
  flip?: number;
  /** Whether pieces overtake one another. */
  reorder?: boolean;
  /** The line is cut after so many bytes of answers. */
  cutAfter?: number;
}
/** A line within this process with the ills of a real one; what happens is by a seed. */
export function badLine(
  instrument: { answer(frame: Frame, whom: object): Uint8Array },
  { lose = 0, flip = 0, reorder = false, cutAfter = Infinity }: Ills,
  seed = 1,
): Line {
  let state = seed * 2654435761;
  const random = () => (state = (Math.imul(state ^ (state >>> 15), 2246822507) + 0x9e3779b9) >>> 0) / 2 ** 32;
  let hear: (bytes: Uint8Array) => void = () => undefined;
  let ended: () => void = () => undefined;
  let cut = false;
  let sent = 0;
  const reader = new FrameReader();
  const ill = (bytes: Uint8Array): Uint8Array | null =>
    random() < lose ? null : bytes.map((b) => (random() < flip ? b ^ (1 << Math.floor(random() * 8)) : b));
  const self = {};
  return {
    write: (bytes) => {
      const there = cut ? null : ill(bytes);
      if (!there) return;
      for (const frame of reader.push(there)) {
        const whole = instrument.answer(frame, self);
        const back = ill(whole.subarray(0, Math.max(0, cutAfter - sent)));
        sent += whole.length;
        const over = sent >= cutAfter;
        if (back) setTimeout(() => hear(back), reorder ? random() * 3 : 0);
        if (over) setTimeout(() => ((cut = true), ended()), 4);
      }
    },
    onBytes: (of) => void (hear = of),
    onEnd: (of) => void (ended = of),
    close: () => void (cut = true),
  };
}
/** Patience for a line within this process. */
export const QUICK = { ms: 6, tries: 60 };
