import type { Ink } from '$core/figures/vectors';

/** Traces in their order; they stay apart for colour-blind eyes, and repeat dashed. */
export const TRACES = ['#7A2E4D', '#17706B', '#B8741A', '#3E5C94', '#55782C', '#B14C7A', '#8A5A3B'] as const;
/** The same on dark paper. */
const NIGHT_TRACES = ['#D98AAA', '#5DB8B1', '#DFA758', '#8FA9DC', '#9CC06C', '#E391B9', '#C79B7C'] as const;

export const traceColour = (index: number, night = false) =>
  (night ? NIGHT_TRACES : TRACES)[index % TRACES.length];
/** The same for names and other words in a trace's colour, which need more contrast than a line. */
export const nameColour = (index: number, night = false) => {
  const colour = traceColour(index, night);
  return colour === TRACES[2] ? DARK_OCHRE : colour;
};
const DARK_OCHRE = '#96590E';
export const traceDash = (index: number): number[] => (Math.floor(index / TRACES.length) % 2 ? [5, 3] : []);

/** Several takes over each other: the one that stands out, those that step back, those that do not count, and the spread of all. */
export const comparing = (night: boolean) =>
  night
    ? { front: '#E09BB8', back: '#7D746B', out: '#DCA64A', spread: '#5DB8B1' }
    : { front: '#7A2E4D', back: '#B3A99D', out: '#B8741A', spread: '#17706B' };

/** Ends of the colours of heat: paper to plum, and the other way round at night. */
export const HEAT = ['#FBFAF7', '#5E1638'] as const;
export const NIGHT_HEAT = ['#22201E', '#F2BDD2'] as const;

export const PAPER = {
  paper: '#FBFAF7',
  stone: '#F2EFE9',
  line: '#DCD5C9',
  ink: '#26211D',
  muted: '#756B61',
  plum: '#7A2E4D',
  red: '#B3261E',
} as const;

/** Colours and faces of figures on paper. */
export const PAPER_INK: Ink = {
  trace: traceColour,
  dash: traceDash,
  tones: {
    muted: '#A0968B',
    accent: PAPER.plum,
    good: '#4B7A3D',
    warning: '#A86A0B',
    alarm: PAPER.red,
  },
  line: PAPER.line,
  muted: PAPER.muted,
  ink: PAPER.ink,
  heat: HEAT,
  words: 'Words',
  mono: 'Mono',
};
