/** Where the name of a mark on an axis is written. */
export interface PlacedLabel {
  /** Row, 0 nearest to the axis. */
  row: number;
  /** The name as far as there is room for it; '' where there is none, then only hovering tells it. */
  text: string;
  /** Written to the left of its mark, where the right end of the axis is near. */
  left: boolean;
}

const GAP = 8;
const LEAST_CHARACTERS = 3;

/** Places names of marks beside their marks, in rows, so that none lies over another one or over an end of the axis; what is too long is cut
 *  with “…”.
 *  @param marks by their place on the axis, px, rising @param width of the axis, px @param options rows, and width of a character, px */
export function placeLabels(
  marks: readonly { x: number; text: string }[],
  width: number,
  { rows = 2, character = 6.4 }: { rows?: number; character?: number } = {},
): PlacedLabel[] {
  /** How far each row is written on. */
  const ends = Array.from({ length: rows }, () => 0);
  return marks.map(({ x, text }, i) => {
    const row = i % rows;
    const next = marks[i + rows]?.x ?? width;
    const wanted = text.length * character;
    const right = Math.min(next, width) - x - GAP;
    const leftRoom = x - ends[row] - GAP;
    const left = right < wanted && leftRoom >= wanted;
    const fits = Math.floor((left ? leftRoom : right) / character);
    const shown =
      fits >= text.length ? text : fits > LEAST_CHARACTERS ? `${text.slice(0, fits - 1).trimEnd()}…` : '';
    ends[row] = left ? x : x + shown.length * character;
    return { row, text: shown, left };
  });
}
