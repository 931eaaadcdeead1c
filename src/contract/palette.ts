/** Traces in their order; they stay apart for colour-blind eyes, and repeat dashed. */
export const TRACES = ['#7A2E4D', '#17706B', '#B8741A', '#3E5C94', '#55782C', '#B14C7A', '#8A5A3B'] as const;
/** The same on dark paper. */
export const NIGHT_TRACES = [
  '#D98AAA',
  '#5DB8B1',
  '#DFA758',
  '#8FA9DC',
  '#9CC06C',
  '#E391B9',
  '#C79B7C',
] as const;

export const traceColour = (index: number, night = false) =>
  (night ? NIGHT_TRACES : TRACES)[index % TRACES.length];
export const traceDash = (index: number): number[] => (Math.floor(index / TRACES.length) % 2 ? [5, 3] : []);

export const PAPER = {
  paper: '#FBFAF7',
  stone: '#F2EFE9',
  line: '#DCD5C9',
  ink: '#26211D',
  muted: '#756B61',
  plum: '#7A2E4D',
  red: '#B3261E',
} as const;
