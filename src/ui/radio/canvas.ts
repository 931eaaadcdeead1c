import { axisScale, type AxisScale } from '$core/figures/scale';
import { LEFT, RIGHT } from '../plot/canvas';

/** Axis of frequency over a picture, MHz. */
export const frequencyAxis = (fromHz: number, toHz: number, width: number): AxisScale =>
  axisScale(
    { label: 'Frequency', unit: 'MHz', scale: 'linear' },
    [fromHz / 1e6, toHz / 1e6],
    [LEFT, width - RIGHT],
    Math.max(3, Math.floor(width / 130)),
  );

/** Levels by tens of decibels, or fewer where the picture is low. */
export function levelAxis(top: number, height: number, [from, to]: readonly [number, number]): AxisScale {
  const scale = axisScale(
    { label: 'Level', unit: 'dBm', scale: 'linear' },
    [top - height, top],
    [to, from],
    5,
  );
  const least = (18 / Math.abs(to - from)) * height;
  const step = [1, 2, 5, 10, 20, 50].find((s) => s >= least) ?? 50;
  const first = Math.ceil((top - height) / step) * step;
  const ticks = Array.from({ length: Math.floor((top - first) / step) + 1 }, (_, k) => first + k * step);
  return {
    ...scale,
    ticks: ticks.map((value) => ({ value, at: scale.at(value), text: String(value).replace('-', '−') })),
  };
}
