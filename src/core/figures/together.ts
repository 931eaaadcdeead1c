import type { Figure } from './figure';

/** A place that is touched in a figure. */
export interface Touched {
  /** Names the axis: figures that share it show the place as it is. */
  axis: string;
  place: number;
  /** What stands there, where the axis is one of values, or of classes of values. */
  value: { at: number; unit: string } | null;
}

const axisOf = ({ x }: Figure) => JSON.stringify([x.label, x.unit, x.scale, x.classes]);

/** A place on the horizontal axis of a figure, as others can find it. */
export function touchedIn(figure: Figure, place: number): Touched {
  const { x } = figure;
  const value =
    x.scale === 'classes'
      ? x.middles
        ? { at: x.middles.from + Math.round(place) * x.middles.step, unit: x.middles.unit }
        : null
      : { at: place, unit: `${x.scale === 'time' || x.scale === 'calendar' ? x.scale : ''}${x.unit}` };
  return { axis: axisOf(figure), place, value };
}

/** Where that place lies in another figure: on the same axis, or where the same value stands. null where it does not. */
export function placeIn(figure: Figure, { axis, place, value }: Touched): number | null {
  const { x } = figure;
  if (axisOf(figure) === axis) return place;
  if (!value) return null;
  if (x.scale !== 'classes') return touchedIn(figure, 0).value?.unit === value.unit ? value.at : null;
  if (x.middles?.unit !== value.unit) return null;
  const k = Math.round((value.at - x.middles.from) / x.middles.step);
  return k >= 0 && k < x.classes!.length ? k : null;
}

/** The class that is touched, by its name. */
export function classTouched(figures: readonly Figure[], touched: Touched): string | null {
  for (const figure of figures) {
    const place = figure.x.scale === 'classes' ? placeIn(figure, touched) : null;
    if (place !== null) return figure.x.classes![Math.round(place)] ?? null;
  }
  return null;
}
