import type { PointPower } from '$core/noise-figure/findings';
import {
  NOISE_DEFAULTS,
  NOISE_STATES,
  noiseFrequencies,
  NoiseSettings,
  type NoiseResult,
  type NoiseSource,
  type NoiseState,
  type OwnNoise,
} from '$contract/radio-noise';
import type { Db } from '$store/database';
import { getHouse, putHouse } from '$store/house';
import { listKept } from '$store/radio-kept';

/** What is measured on one receiver. */
export interface NoiseTable {
  settings: NoiseSettings;
  device: string;
  own: OwnNoise | null;
  /** A table of the source for this time only. */
  forNow: NoiseSource['points'] | null;
  roomK: number;
  /** Powers by state, for the frequencies of `hz`. */
  hz: number[];
  powers: Record<NoiseState, (PointPower | null)[]>;
  running: { state: NoiseState; done: number; of: number; beganMs: number; share: number } | null;
  says: string;
  kept: string | null;
}

export const noPowers = (count: number): NoiseTable['powers'] =>
  Object.fromEntries(
    NOISE_STATES.map((s) => [s, new Array<PointPower | null>(count).fill(null)]),
  ) as NoiseTable['powers'];

/** Powers of other frequencies are none of these. */
export function followSettings(bench: NoiseTable): void {
  const hz = noiseFrequencies(bench.settings);
  const next = Array.isArray(hz) ? hz : [];
  if (next.join() === bench.hz.join()) return;
  bench.hz = next;
  bench.powers = noPowers(next.length);
  bench.kept = null;
}

const keyOf = (unit: string) => `noise ${unit}`;

/** As it was when the server ended. */
export function loadNoise(db: Db, unit: string): NoiseTable {
  const kept = getHouse(db, keyOf(unit)) as Partial<NoiseTable> | null;
  const settings = NoiseSettings.safeParse(kept?.settings);
  const bench: NoiseTable = {
    settings: settings.success ? settings.data : NOISE_DEFAULTS,
    device: typeof kept?.device === 'string' ? kept.device : '',
    own: kept?.own ?? null,
    forNow: null,
    roomK: kept?.roomK ?? NOISE_DEFAULTS.room,
    hz: [],
    powers: noPowers(0),
    running: null,
    says: '',
    kept: null,
  };
  if (!bench.settings.roomBy) bench.roomK = bench.settings.room;
  followSettings(bench);
  if (kept?.powers && kept.hz?.join() === bench.hz.join())
    Object.assign(bench, { powers: kept.powers, kept: kept.kept ?? null });
  return bench;
}

export const keepNoise = (
  db: Db,
  unit: string,
  { settings, device, own, roomK, hz, powers, kept }: NoiseTable,
): void => putHouse(db, keyOf(unit), { settings, device, own, roomK, hz, powers, kept });

/** Noise figures of a job's devices, oldest first. */
export const listNoise = (db: Db, jobId: string): NoiseResult[] =>
  listKept(db, 'noise figure', jobId).map((r) => r.body as unknown as NoiseResult);
