import { tinykeys } from 'tinykeys';
import { rateHz } from '$core/samples/sampled';
import { call } from '../api';
import type { Inspection } from './inspection.svelte';
import { signalOf } from './panels';

interface Acts {
  copy(): void;
  write(): void;
  export(): void;
  /** The channel that is read. */
  channel(): string;
}

/** Steps of a window that is looked at: about a pixel. */
const PIXELS = 600;

/** Keys of the page, while nothing is typed. @returns what lets them go */
export function keysOf(insp: Inspection, acts: Acts): () => void {
  const typed = (act: () => void) => (event: KeyboardEvent) => {
    const target = event.target as HTMLElement;
    if (!insp.main || target.closest('input, textarea, select, [role=dialog], [contenteditable]')) return;
    event.preventDefault();
    act();
  };
  const span = () => insp.window[1] - insp.window[0];
  /** A cursor that stands nowhere yet begins in the middle of the window. */
  const here = () => insp.cursors[insp.chosen] ?? (insp.window[0] + insp.window[1]) / 2;
  const step = (sign: 1 | -1, far: number) =>
    typed(() => insp.place(insp.chosen, here() + (sign * far * span()) / PIXELS));
  const sample = (sign: 1 | -1) =>
    typed(() => {
      const signal = signalOf(insp.main, acts.channel());
      if (!signal) return;
      const zero = insp.zero(insp.main.head.id);
      const rate = rateHz(signal);
      const index = Math.round((here() + zero - signal.startNs / 1e9) * rate) + sign;
      insp.place(insp.chosen, signal.startNs / 1e9 + index / rate - zero);
    });
  /** A character that some keyboards have above another one. */
  const either = (key: string, act: () => void) => ({ [key]: typed(act), [`Shift+${key}`]: typed(act) });
  const peak = (sign: 1 | -1) => typed(() => void toPeak(insp, acts.channel(), here(), sign));
  return tinykeys(window, {
    ArrowLeft: step(-1, 1),
    ArrowRight: step(1, 1),
    'Shift+ArrowLeft': step(-1, 10),
    'Shift+ArrowRight': step(1, 10),
    'Alt+ArrowLeft': sample(-1),
    'Alt+ArrowRight': sample(1),
    'Control+ArrowLeft': peak(-1),
    'Control+ArrowRight': peak(1),
    '1': typed(() => (insp.chosen = 0)),
    '2': typed(() => (insp.chosen = 1)),
    Delete: typed(() => insp.place(insp.chosen, null)),
    '[': typed(() => insp.step(-1)),
    ']': typed(() => insp.step(1)),
    Backspace: typed(() => insp.back()),
    'Shift+Backspace': typed(() => insp.forward()),
    '0': typed(() => insp.all()),
    ...either('+', () => (insp.remember(), insp.zoom(here(), 0.5))),
    '-': typed(() => (insp.remember(), insp.zoom(here(), 2))),
    PageDown: typed(() => insp.pan(span() * 0.8, false)),
    PageUp: typed(() => insp.pan(-span() * 0.8, false)),
    c: typed(acts.copy),
    n: typed(acts.write),
    x: typed(acts.export),
  });
}

/** Share of the range in view that a peak has to stand out by, so that noise is none. */
const LEAST_RISE = 0.02;

/** The chosen cursor goes to the next peak of a channel of the take that stands out, within the window. */
async function toPeak(insp: Inspection, channel: string, from: number, sign: 1 | -1): Promise<void> {
  const signal = signalOf(insp.main, channel);
  if (!signal) return;
  const zero = insp.zero(insp.main.head.id);
  const [a, b] = insp.window;
  const { id } = insp.main.head;
  const found = await call('GET /api/takes/[id]/peak', {
    params: { id },
    query: { signal: signal.id, at: from + zero, until: (sign > 0 ? b : a) + zero, least: LEAST_RISE },
  }).catch(() => ({ s: null }));
  if (found.s !== null) insp.place(insp.chosen, found.s - zero);
}
