import type { Ink } from '$core/figures/vectors';
import { HEAT, NIGHT_HEAT, traceColour, traceDash } from '$contract/palette';

/** Colours of figures on the screen, by the tokens of the theme in force. */
export function screenInk(element: HTMLElement, night: boolean): Ink {
  const style = getComputedStyle(element);
  const token = (name: string) => style.getPropertyValue(name).trim();
  return {
    trace: (k) => traceColour(k, night),
    dash: traceDash,
    tones: {
      muted: token('--muted'),
      accent: token('--plum'),
      good: token('--moss'),
      warning: token('--ochre-fill'),
      alarm: token('--red'),
    },
    line: token('--hair'),
    muted: token('--muted'),
    ink: token('--ink'),
    heat: night ? NIGHT_HEAT : HEAT,
    words: 'Commissioner Variable',
    mono: 'JetBrains Mono Variable',
  };
}
