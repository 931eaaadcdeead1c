/** Round values for the ticks of an axis, computed as integer times step, so no rounding piles up.
 *  @param wanted about how many @returns ticks within [min, max] and the decimals their labels need */
export function roundTicks(min: number, max: number, wanted = 5): { ticks: number[]; decimals: number } {
  const span = max - min;
  if (!(span > 0) || !Number.isFinite(span)) return { ticks: Number.isFinite(min) ? [min] : [], decimals: 0 };
  const rough = span / wanted;
  const power = Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((m) => m * 10 ** power).find((s) => s >= rough * 0.999)!;
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  const ticks: number[] = [];
  for (let k = Math.ceil(min / step - 1e-9); k <= Math.floor(max / step + 1e-9); k++)
    ticks.push(Number((k * step).toFixed(decimals)));
  return { ticks, decimals };
}

const MINUTE = 60;
const HOUR = 3600;
const DAY = 86_400;
/** Steps of a time axis above a second: whole seconds, minutes, quarter hours, hours, days. */
const TIME_STEPS = [
  1, 2, 5, 10, 15, 30, MINUTE, 2 * MINUTE, 5 * MINUTE, 10 * MINUTE, 15 * MINUTE, 30 * MINUTE, HOUR, 2 * HOUR, 3 * HOUR, 6 * HOUR, 12 * HOUR, DAY, 2 * DAY, 7 * DAY,
]; // prettier-ignore

/** Ticks of a time axis in seconds, at times that are round on a clock; below a second as roundTicks.
 *  @param wanted about how many; at least three where the span allows it */
export function timeTicks(min: number, max: number, wanted = 6): { ticks: number[]; decimals: number } {
  const span = max - min;
  if (!(span > 0) || !Number.isFinite(span) || span / wanted < 0.9) return roundTicks(min, max, wanted);
  const enough = TIME_STEPS.filter((s) => Math.floor(max / s + 1e-9) - Math.ceil(min / s - 1e-9) + 1 >= 3);
  const step = enough.find((s) => s >= (span / wanted) * 0.999) ?? enough[enough.length - 1] ?? TIME_STEPS[0];
  const days = span / wanted > 7 * DAY ? Math.ceil(span / wanted / (7 * DAY)) * 7 * DAY : step;
  const ticks: number[] = [];
  for (let k = Math.ceil(min / days - 1e-9); k <= Math.floor(max / days + 1e-9); k++)
    ticks.push(k * days || 0); // no −0
  return { ticks, decimals: 0 };
}
