import { Drawing, USUAL_DRAWING } from '$contract/drawing';

/** All that a link to what is looked at has to hold, so that another person sees the same. */
export interface Looked {
  /** Numbers of the takes beside the one that stands out, in their order. */
  beside: number[];
  drawing: Drawing;
  /** Of the time axis, s; null for all of it. */
  window: [number, number] | null;
  cursors: [number | null, number | null];
  recorded: boolean;
  /** The series that is open below. */
  series: string | null;
}

/** Numbers as they are written: “3,5-9”. */
export function numbersText(numbers: readonly number[]): string {
  const parts: string[] = [];
  for (let i = 0; i < numbers.length;) {
    let end = i;
    while (numbers[end + 1] === numbers[end] + 1) end++;
    parts.push(end > i + 1 ? `${numbers[i]}-${numbers[end]}` : numbers.slice(i, end + 1).join());
    i = end + 1;
  }
  return parts.join();
}
const MOST = 100;
export function readNumbers(text: string): number[] {
  const out: number[] = [];
  for (const part of text.split(',')) {
    const found = /^(\d{1,9})(?:-(\d{1,9}))?$/.exec(part.trim());
    if (!found) continue;
    const [first, last] = [Number(found[1]), Number(found[2] ?? found[1])];
    for (let n = first; n <= last && out.length < MOST; n++) if (!out.includes(n)) out.push(n);
  }
  return out;
}

/** Times are written to the nanosecond at most: no more digits than they have. */
const timeText = (s: number) => String(Number(s.toFixed(9)));
const readTime = (text: string | null) => {
  const s = text === null || text.trim() === '' ? NaN : Number(text);
  return Number.isFinite(s) ? s : null;
};

/** What differs from the usual, as what stands after the question mark. */
export function addressText({ beside, drawing, window, cursors, recorded, series }: Looked): string {
  const said = new URLSearchParams();
  if (recorded) said.set('as', 'recorded');
  if (beside.length) said.set('with', numbersText(beside));
  const own = Object.fromEntries(
    Object.entries(drawing).filter(
      ([key, value]) => JSON.stringify(value) !== JSON.stringify(USUAL_DRAWING[key as keyof Drawing]),
    ),
  );
  if (Object.keys(own).length) said.set('view', JSON.stringify(own));
  if (window) said.set('window', window.map(timeText).join('~'));
  cursors.forEach((at, k) => at !== null && said.set(`at${k + 1}`, timeText(at)));
  if (series) said.set('series', series);
  return said.toString();
}

/** Reads an address; what cannot be read is left at its usual. */
export function readAddress(said: URLSearchParams): Looked {
  const [from, to] = (said.get('window') ?? '').split('~').map(readTime);
  return {
    beside: readNumbers(said.get('with') ?? ''),
    drawing: readDrawing(said.get('view')),
    window: from !== null && to !== null && to !== undefined && to > from ? [from, to] : null,
    cursors: [readTime(said.get('at1')), readTime(said.get('at2'))],
    recorded: said.get('as') === 'recorded',
    series: said.get('series') || null,
  };
}

function readDrawing(text: string | null): Drawing {
  try {
    return Drawing.parse(JSON.parse(text ?? '{}'));
  } catch {
    return USUAL_DRAWING;
  }
}
