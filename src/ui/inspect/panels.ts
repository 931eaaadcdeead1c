import { definition, isUnit, unitConversion } from '$core/quantities/quantities';
import { sameDimension } from '$core/quantities/symbols';
import { OWN_AXIS, type Axis, type Drawing } from '$contract/drawing';
import { usualStrips, type TakeSignal, type TakeView } from '$contract/take';

/** One channel of one take in a plot. */
export interface Curve {
  take: TakeView;
  signal: TakeSignal;
  /** Position of its axis in the panel. */
  axis: number;
  /** From the take's unit to that of the axis. */
  into: { factor: number; offset: number };
}
export interface PanelAxis extends Axis {
  /** Names its range: the first channel on it. */
  key: string;
  label: string;
  shown: string;
  side: 'left' | 'right';
  colour: number;
}
/** One strip or plot. */
export interface Panel {
  key: string;
  /** What it shows, in the colours of the channels. */
  heads: { name: string; unit: string; colour: number }[];
  axes: PanelAxis[];
  curves: Curve[];
}

/** Channels that are looked at: those of the drawing, or the usual ones of the first take that has any. */
export const channelsShown = (drawing: Drawing, takes: readonly TakeView[]): string[] =>
  drawing.channels.length
    ? drawing.channels
    : usualStrips(takes.find((t) => usualStrips(t.signals).length)?.signals ?? []).map((s) => s.name);

/** The channel of a take by its name. */
export const signalOf = (take: TakeView, name: string): TakeSignal | undefined =>
  take.signals.find((s) => s.name === name);

const IDENTITY = { factor: 1, offset: 0 };
/** Whether values of one unit can be shown on an axis of another one. */
const fits = (unit: string, axis: string) =>
  unit === axis ||
  (isUnit(unit) && isUnit(axis) && sameDimension(definition(unit).dimension, definition(axis).dimension));

/** Strips and plots of a drawing over some takes, the one that stands out first in each.
 *  @returns the panels, and what no take holds as it is asked for */
export function panelsOf(
  drawing: Drawing,
  takes: readonly TakeView[],
): { panels: Panel[]; missing: { channel: string; takes: string[] }[] } {
  const names = channelsShown(drawing, takes);
  const groups =
    drawing.as === 'one plot'
      ? [names]
      : names
          .filter((name) => !names.includes(drawing.together[name] ?? ''))
          .map((first) => [first, ...names.filter((n) => n !== first && drawing.together[n] === first)]);
  const apart = drawing.laid === 'under each other' && takes.length > 1;
  const panels = (apart ? takes.map((t) => [t]) : [takes]).flatMap((own) =>
    groups.map((group) => panelOf(group, own, drawing, apart ? own[0] : null)),
  );
  const missing = names.flatMap((channel) => {
    const without = takes.filter((t) => !signalOf(t, channel)).map((t) => t.head.name);
    return without.length ? [{ channel, takes: without }] : [];
  });
  return { panels: panels.filter((p) => p.curves.length), missing };
}

function panelOf(
  names: readonly string[],
  takes: readonly TakeView[],
  drawing: Drawing,
  of: TakeView | null,
): Panel {
  const axes: PanelAxis[] = [];
  const curves: Curve[] = [];
  const heads: Panel['heads'] = [];
  for (const name of names) {
    const first = takes.map((t) => signalOf(t, name)).find(Boolean);
    if (!first) continue;
    const own = drawing.axis[name] ?? OWN_AXIS;
    const unit = own.unit && fits(first.unit, own.unit) ? own.unit : first.unit;
    let axis = drawing.axes === 'quantity' ? axes.findIndex((a) => fits(unit, a.shown)) : -1;
    if (axis < 0) {
      axis = axes.length;
      // Left and right in turns, so that neither side grows alone.
      const side = axis % 2 === 0 ? ('left' as const) : ('right' as const);
      axes.push({ ...own, key: name, label: name, shown: unit, side, colour: first.colour });
    }
    heads.push({ name, unit: axes[axis].shown, colour: first.colour });
    for (const take of takes) {
      const signal = signalOf(take, name);
      if (!signal || !fits(signal.unit, axes[axis].shown)) continue;
      const into =
        signal.unit === axes[axis].shown ? IDENTITY : unitConversion(signal.unit, axes[axis].shown);
      curves.push({ take, signal, axis, into });
    }
  }
  const key = `${of?.head.id ?? 'all'} ${names.join('\n')}`;
  if (of) heads.unshift({ name: of.head.name, unit: '', colour: -1 });
  return { key, heads, axes, curves };
}

/** Length of all takes together on the common time axis, by where each lies. @param zero instant of each take at 0 of the axis, s */
export function wholeSpan(takes: readonly TakeView[], zero: (id: string) => number): [number, number] {
  const ends = takes.map((t) => [0 - zero(t.head.id), t.durationS - zero(t.head.id)]);
  const [from, to] = [Math.min(...ends.map((e) => e[0])), Math.max(...ends.map((e) => e[1]))];
  return to > from ? [from, to] : [Number.isFinite(from) ? from : 0, (Number.isFinite(from) ? from : 0) + 1];
}
