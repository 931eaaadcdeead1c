import { excessAt, hotTemperature, T0, type ExcessPoint } from '$core/noise-figure/sources';

/** The quay’s noise source: excess noise as its certificate has it. */
export const QUAY_SOURCE: readonly ExcessPoint[] = [
  [10, 15.21],
  [100, 15.18],
  [300, 15.12],
  [500, 15.07],
  [700, 15.05],
  [900, 15.01],
  [1000, 14.98],
  [1500, 14.93],
  [2000, 14.87],
  [3000, 14.8],
].map(([mhz, enr]) => ({ hz: mhz * 1e6, enr, expanded: 0.16 }));

/** Room at the quay, K, and losses of the cables before and behind the device, dB. */
export const QUAY = { roomK: 296.4, before: 0.2, behind: 0.4 } as const;

/** The amplifier of the telemetry: noise figure and gain, dB. */
export function quayDevice(hz: number): { figureDb: number; gainDb: number } {
  const x = hz / 1e9;
  return {
    figureDb: 1.45 + 0.35 * Math.max(0, 0.45 - x) * 2 + 0.5 * Math.max(0, x - 0.6) + 0.05 * Math.sin(40 * x),
    gainDb: 24.2 - 4.6 * x * x - 0.35 * Math.sin(17 * x),
  };
}

/** How warm what a receiver hears is, K. @param device whether the amplifier and its cables are between */
export function chainTemperature(hz: number, on: boolean, device: boolean): number {
  const { roomK } = QUAY;
  const source = on ? hotTemperature(excessAt(QUAY_SOURCE, hz).enr) : roomK;
  if (!device) return source;
  const lossy = (kelvin: number, db: number) => {
    const share = 10 ** (-db / 10);
    return kelvin * share + roomK * (1 - share);
  };
  const { figureDb, gainDb } = quayDevice(hz);
  const own = T0 * (10 ** (figureDb / 10) - 1);
  return lossy((lossy(source, QUAY.before) + own) * 10 ** (gainDb / 10), QUAY.behind);
}
